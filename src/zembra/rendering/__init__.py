"""Pictures without a browser: the drawing of the screen in an embedded engine, as SVG, PNG and PDF."""
