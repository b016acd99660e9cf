"""What kinds declare: registries, fields, formulas, the contract of a step. Below all that uses them."""
