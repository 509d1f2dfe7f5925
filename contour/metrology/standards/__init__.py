"""What the standards say: limits and fits, threads, drills, preferred numbers. Sizes in mm."""
