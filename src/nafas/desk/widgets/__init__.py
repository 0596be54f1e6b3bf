"""Parts of the window that more than one view uses."""
