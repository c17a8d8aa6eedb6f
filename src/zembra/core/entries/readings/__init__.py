"""What is computed from repaired lines without changing them."""
