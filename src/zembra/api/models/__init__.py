"""Request and response models, one module a resource."""
