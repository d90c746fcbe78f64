"""QTI 2.1 and 2.2 (1EdTech: Assessment Test, Section and Item Information Model)."""
