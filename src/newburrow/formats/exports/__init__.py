"""An export opened: which parts hold content, in which format and dialect, and the records of all."""
