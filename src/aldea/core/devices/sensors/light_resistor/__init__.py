"""Photoresistor in a divider."""
