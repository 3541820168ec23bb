"""What texts say: the words of headers, and whether two texts are a slip apart."""
