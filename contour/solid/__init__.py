"""The kernel seen through our eyes: shapes with named faces, features, checks, tessellation. Never import it in the web process."""
