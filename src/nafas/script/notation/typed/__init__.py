"""Lines as producers type them, read into breath notation."""
