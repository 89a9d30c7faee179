"""The web application: models, actions, queries and screens. Computation histories in brunt_core."""
