"""The page that says how the app and its machine are."""
