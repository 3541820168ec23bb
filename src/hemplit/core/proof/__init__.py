"""Whether the tables give every cell back, where each went, and what is to be told of them."""
