"""The commands of the command line, a module each; `zembra.cli` has their words."""
