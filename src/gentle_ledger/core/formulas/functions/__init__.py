"""All functions, in the order the help lists them; a module in this folder is found by itself."""

import importlib
import pkgutil

from gentle_ledger.core.formulas.registry import Function

_MODULES = [importlib.import_module(f"{__name__}.{found.name}") for found in pkgutil.iter_modules(__path__)]

FUNCTIONS: tuple[Function, ...] = tuple(
    function for module in sorted(_MODULES, key=lambda module: module.PLACE) for function in module.FUNCTIONS
)

BY_NAME = {function.name: function for function in FUNCTIONS}
