"""Which plug is lit when: cap and leads, where a distributor sits, how far it advances."""
