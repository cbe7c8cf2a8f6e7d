"""Files that somebody made to do harm, or that went wrong in the worst way."""
