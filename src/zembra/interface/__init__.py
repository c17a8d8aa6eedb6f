"""What notebooks and scripts see of Zembra: `import zembra` has all of it."""
