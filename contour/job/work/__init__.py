"""Work in children that can be killed."""
