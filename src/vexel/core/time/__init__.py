"""Exact time: rates, clocks, timecode, shutters and which frames are shown; no floating point decides a count."""
