"""What is asked and answered, a module a resource."""
