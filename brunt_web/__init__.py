"""The web application: models, actions, queries and screens. Computation is in brunt_core."""
