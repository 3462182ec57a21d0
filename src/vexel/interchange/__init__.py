"""Files of other tools, read and written: camera tables and glTF cameras."""
