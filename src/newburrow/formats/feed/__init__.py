"""What RSS and Atom share: streaming through items, and what a dialect says of them."""
