"""Lists of what is wrong with how components are put together: a file each."""
