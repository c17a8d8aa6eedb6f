"""What is done to the numbers."""
