"""The firm's own procedures: YAML files in and out (docs/procedures.md)."""

from django.contrib import messages
from django.http import Http404
from django.shortcuts import redirect
from django.views.decorators.http import require_POST, require_safe

from returnpath.errors import BadInput
from returnpath.plan import forms, read_form, why_not_rendered, write_form

from ..accounts.guests import not_for_guests
from ..address import address_of
from ..files import attached, sent_text
from ..jobs.access import job_of
from ..solved import solve
from .models import OwnForm

MOST = 60
MOST_BYTES = 60_000


@require_POST
def form_in(request, pk: int):
    """A procedure's file: taken whole, or refused with the step that is wrong."""
    not_for_guests(request)
    job = job_of(request, pk)
    try:
        text = sent_text(request, "a procedure's file", MOST_BYTES)
        form = read_form(text)
        if form.adds_to and form.adds_to not in forms():
            raise BadInput(f"adds_to: “{form.adds_to}” is none of ours.")
        if form.key in forms():
            raise BadInput(f"“{form.key}” is one of ours: give yours another key.")
        if OwnForm.objects.exclude(key=form.key).count() >= MOST:
            raise BadInput(f"At most {MOST} own procedures are kept.")
        if problem := why_not_rendered(text, form, solve(job.latest.site).evidence):
            raise BadInput(problem)
        OwnForm.objects.update_or_create(key=form.key, defaults={"text": text, "by": request.user})
        messages.info(request, f"{form.name}: {len(form.steps)} steps read in.")
    except BadInput as error:
        messages.error(request, error.sentence)
    return redirect(address_of(job, "plan", {}).here)


@require_safe
def form_out(request, key: str):
    """A procedure as its file: one of ours to begin from, or the firm's own."""
    if key not in forms():
        not_for_guests(request)
    if key in forms():
        text = write_form(forms()[key])
    else:
        own = OwnForm.objects.filter(key=key[:40]).first()
        if own is None:
            raise Http404
        text = own.text
    return attached(text, "application/yaml", f"{key}.yaml")
