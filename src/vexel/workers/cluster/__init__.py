"""Workers on other machines, by a Dask scheduler that runs already."""
