"""What one does to a drawing: shapes that are drawn, relations and sizes that are asked, pieces that are cut, moved and copied."""
