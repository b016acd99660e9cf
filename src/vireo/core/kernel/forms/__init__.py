"""What a body can be: one file per form. `kind` is their contract."""
