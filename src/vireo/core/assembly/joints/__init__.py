"""One file per kind of joint: the lower pairs of the textbook."""
