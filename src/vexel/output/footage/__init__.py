"""Frames of a take, a folder or a reel, as the files of a video are made of them."""
