"""Recordings listened to: measured, put into words, held against each other."""
