"""What is done with media in a bounded process of the server: questions, and who answers them."""
