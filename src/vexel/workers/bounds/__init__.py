"""What a process that runs a person's code may take of the machine, write, read and signal."""
