"""Segmentation: a recording of a call sheet cut up into its lines."""
