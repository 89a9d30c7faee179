"""Reading a page as a person does."""


def words(answer) -> str:
    """The page's text with its tags, blanks and line breaks folded."""
    return " ".join(answer.content.decode().split())
