"""Tests of what notebooks and scripts see."""
