"""Building jobs: keys, the product cache, rebuilding, and the runner of killable children."""
