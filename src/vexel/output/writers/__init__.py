"""Writers: how each kind of file is written, one record a form."""
