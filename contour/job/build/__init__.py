"""Building a job: keys, the store, what names mean, the walk over the steps, and what it found out."""
