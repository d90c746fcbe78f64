"""Redirects: from the answers to old addresses to what servers take, one module for each server."""
