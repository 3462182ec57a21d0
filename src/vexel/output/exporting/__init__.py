"""What goes to other people: hand-overs, and the line that makes the same."""
