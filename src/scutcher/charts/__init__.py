"""What a chart shows, as plain data: series, marks, colours by role, titles, and the numbers behind them."""
