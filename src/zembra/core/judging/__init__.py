"""Judge projections: backtest candidates on the same held-back periods."""
