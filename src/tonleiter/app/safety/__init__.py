"""What keeps a slip of ours from costing the user's work."""
