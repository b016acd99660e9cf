"""Sheet metal: rules of bending, and steps as operations on the tree of panels."""
