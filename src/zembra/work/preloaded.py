"""The slow imports of heavy entries, made once in the process that workers are forked from."""

import pandas as pd
import statsmodels.tsa.exponential_smoothing.ets as smoothing
from scipy import optimize, signal, special
from statsmodels.tsa import seasonal

__all__ = ["optimize", "pd", "seasonal", "signal", "smoothing", "special"]
