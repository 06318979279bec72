"""Everything that a person types, read: each line takes a Show and gives a new one, or one sentence why not."""
