"""Many small ARIMA models, fitted side by side and averaged."""
