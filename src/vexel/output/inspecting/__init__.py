"""What a file would come to, and what one holds."""
