"""What steps read from, and say of, what their references stand for at present."""
