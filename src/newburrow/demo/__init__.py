"""The demo site, Mistle Bank Orchard, and its exports from the stand-in platforms. All of it is made up."""
