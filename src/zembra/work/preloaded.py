"""Slow imports, made once in the process that workers are forked from."""

import pandas as pd
from scipy import optimize, signal, special
from statsmodels.tsa import seasonal, stattools

__all__ = ["optimize", "pd", "seasonal", "signal", "special", "stattools"]
