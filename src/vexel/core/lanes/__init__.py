"""Values over the shot: easings, keys, what a lane may drive, and lanes recorded from a gesture."""
