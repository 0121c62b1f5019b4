"""What a page shows. Nothing here changes a record."""
