"""The web application: models, actions, queries and screens. Computation lives in brunt_core."""
