"""Files of many takes."""
