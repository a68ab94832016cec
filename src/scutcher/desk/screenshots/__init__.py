"""The demo without a display: the main views as PNG, the tables and a one-screen summary in a folder."""
