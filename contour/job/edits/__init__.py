"""What can be changed in a recipe, and what in it needs what."""
