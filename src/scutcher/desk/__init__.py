"""The desktop: window, trail, ladder, pages, and the live painter of the charts."""
