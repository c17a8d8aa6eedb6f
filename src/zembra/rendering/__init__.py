"""Draw pictures without a browser, as SVG, PNG and PDF."""
