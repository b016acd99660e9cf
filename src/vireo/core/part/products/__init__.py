"""What a step may put out: one file per product. `kind` is their contract, `outcome` holds what one
step made."""
