"""Names of faces, edges and corners that last: from the step that made them, carried on by what every operation tells of its history."""
