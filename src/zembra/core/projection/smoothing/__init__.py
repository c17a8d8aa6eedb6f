"""Exponential smoothing in innovations state-space form, in numpy.

Forms, recursions and prediction intervals follow Hyndman, Koehler, Ord and Snyder, Forecasting with Exponential
Smoothing (Springer, 2008): a form is error, trend and season, each none (N), additive (A) or multiplicative (M), the
trend perhaps damped (Ad).
"""
