"""Stand-ins for devices on the bench; so far the virtual scanner."""
