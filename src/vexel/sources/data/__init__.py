"""Tables, arrays and data sets as slices, and their plots."""
