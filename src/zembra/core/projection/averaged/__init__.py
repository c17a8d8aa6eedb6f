"""Many small autoregressive models (ARIMA), fitted side by side and averaged."""
