"""The slow imports of heavy entries, made once in the process that workers are forked from."""

import pandas as pd
import statsmodels.tsa.exponential_smoothing.ets as smoothing

__all__ = ["pd", "smoothing"]
