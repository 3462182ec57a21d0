"""Reviews: what is looked at, and figures that are measured of it."""
