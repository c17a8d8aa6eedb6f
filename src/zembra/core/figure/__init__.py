"""What is drawn, independent of any drawing library."""
