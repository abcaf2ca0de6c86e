"""The Practise space: a hidden fault in a station of its own, looked for, named, mended."""
