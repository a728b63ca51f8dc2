"""The web application's server: accounts, catalogue, packs, releases, rigs and background jobs, over REST."""
