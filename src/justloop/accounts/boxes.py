"""The look of Django's own forms on our pages."""

from typing import TypeVar

from django.forms import BaseForm

F = TypeVar("F", bound=BaseForm)


def boxed(form: F) -> F:
    """The form with our boxes; one that is wrong says so to a reader's ear too."""
    for name, field in form.fields.items():
        attributes = field.widget.attrs
        attributes["class"] = "box"
        if form.is_bound and form.errors.get(name):
            attributes |= {
                "aria-invalid": "true",
                "aria-describedby": f"{form[name].id_for_label}-e",
            }
    return form
