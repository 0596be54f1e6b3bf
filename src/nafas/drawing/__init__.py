"""Everything that is drawn without a window: the page, the guide and its video, paper."""
