"""The whole of Tonleiter's arithmetic and judgement, usable as a library without a window."""
