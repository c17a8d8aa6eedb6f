"""The commands, one module each; `zembra.cli` parses their arguments."""
