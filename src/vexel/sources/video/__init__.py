"""Video files: which frames one holds, any of them by its number, and its colours."""
