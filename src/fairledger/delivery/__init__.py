"""Bringing answer files to installers: filled, rightly named, kept from other eyes."""
