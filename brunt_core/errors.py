"""The one error the core raises for input that cannot be used."""


class InputError(ValueError):
    """Input that cannot be used, with the field it belongs to and a sentence for a person.

    >>> str(InputError("The width must be more than zero.", field="width"))
    'The width must be more than zero.'
    """

    def __init__(self, sentence: str, field: str = "") -> None:
        super().__init__(sentence)
        self.sentence = sentence
        self.field = field

    def at(self, field: str) -> "InputError":
        """The same error, belonging to *field*."""
        return InputError(self.sentence, field)
