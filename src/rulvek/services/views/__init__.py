"""What the use cases answer with, by the place of the application that shows it."""
