"""The page without Qt: where everything stands."""
