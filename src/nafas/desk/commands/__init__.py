"""What a person does in the window, by menu or key: each command in one place."""
