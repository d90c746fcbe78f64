"""QTI 1.2 (1EdTech Question and Test Interoperability 1.2.1, and its profile in Common Cartridge)."""
