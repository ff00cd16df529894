"""Pages and the data behind them."""
