"""What is measured of the frames of takes, folders and files."""
