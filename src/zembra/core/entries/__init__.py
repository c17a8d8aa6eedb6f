"""The entry kinds, one module each, in a folder a group. Importing this package registers them all."""

from importlib import import_module
from pkgutil import walk_packages

for _module in walk_packages(__path__, f"{__name__}."):
    import_module(_module.name)
