"""Every file format that comes in or goes out."""
