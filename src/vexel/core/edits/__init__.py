"""A document changed: functions from a shot to a merge patch of it."""
