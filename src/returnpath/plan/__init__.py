"""The work around the calculation, made from the site: procedures, parts, cuts, dates."""

from .cuts import Cutting, Piece, cut
from .dates import KINDS as DATE_KINDS
from .dates import DateAtRisk, Event, at_risk, clashes
from .form import Form, forms, read_form, with_added, write_form
from .offers import Offer, offers
from .parts import PartLine, parts_of, total_of
from .procedure import Hold, Procedure, ProcedureStep, procedure_of
from .progress import Ended, Progress, StepState, Tick, progress_of
from .readback import band_of, is_satisfied
from .rendering import why_not_rendered
from .service_change import ServiceChange, service_change

__all__ = [
    "DATE_KINDS",
    "Cutting",
    "DateAtRisk",
    "Ended",
    "Event",
    "Form",
    "Hold",
    "Offer",
    "PartLine",
    "Piece",
    "Procedure",
    "ProcedureStep",
    "Progress",
    "ServiceChange",
    "StepState",
    "Tick",
    "at_risk",
    "band_of",
    "clashes",
    "cut",
    "forms",
    "is_satisfied",
    "offers",
    "parts_of",
    "procedure_of",
    "progress_of",
    "read_form",
    "service_change",
    "total_of",
    "why_not_rendered",
    "with_added",
    "write_form",
]
