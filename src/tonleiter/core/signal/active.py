"""What counts as speech that is active: one margin for voices, recordings and compressors."""

# ITU-T P.56: active is what lies within this of the level of all that is active
MARGIN_DB = 15.9
