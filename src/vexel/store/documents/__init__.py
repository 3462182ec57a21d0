"""Documents of a project: a JSON file each, with a history for undo and redo."""
