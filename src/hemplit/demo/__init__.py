"""The demo world: a boatyard, all made up. The same seed gives the same sheets, byte for byte."""
