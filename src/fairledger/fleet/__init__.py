"""Many machines from one draft: rosters, and what is written from them."""
