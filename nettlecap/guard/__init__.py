"""What stands between the network and the pages: bodies, addresses, texts, caches, and storage that gives way."""
