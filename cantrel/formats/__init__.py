"""How dates are written, where it differs from the framework's own."""
