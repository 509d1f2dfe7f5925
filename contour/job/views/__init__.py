"""What pictures and the 3D view are given."""
