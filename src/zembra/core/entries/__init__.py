"""The entry kinds, one module each, a folder a family. Importing this package registers them."""

from importlib import import_module
from pkgutil import walk_packages

for _module in walk_packages(__path__, f"{__name__}."):
    import_module(_module.name)
