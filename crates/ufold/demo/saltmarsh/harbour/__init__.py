"""The office programs of Saltmarsh harbour."""
