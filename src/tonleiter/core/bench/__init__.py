"""The simulated bench: a build with generator, load and supply, and the meters put to it."""
