"""The plan document, declared once: every entry with its fields, their units, believed ranges and labels."""
