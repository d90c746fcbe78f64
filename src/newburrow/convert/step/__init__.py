"""The steps that turn an entry of the old site into one of the new, a module each; `order` is their order."""
