"""Parts that several pages use: panels, tables, choices, forms, the legend, gestures."""
