"""What is drawn beyond the last number."""
