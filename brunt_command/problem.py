"""A failure that ends in one clear sentence."""


class Problem(Exception):
    """What went wrong and what to do, in one sentence; ``code`` is the exit status."""

    def __init__(self, sentence: str, code: int = 1) -> None:
        super().__init__(sentence)
        self.code = code
