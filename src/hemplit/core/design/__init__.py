"""What a design means before any data: how its parts are resolved, whether it makes sense, what it can compute."""
