"""Files that outlast a request: on this machine's disk, and where several machines share them, in their storage."""
