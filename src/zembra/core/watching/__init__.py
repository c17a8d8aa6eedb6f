"""Sentences that say when a study should call somebody, and what they find."""
