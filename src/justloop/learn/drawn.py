"""A small solved place as a picture, its loop lit."""

from django.utils.safestring import mark_safe

from returnpath.study import SiteStudy

from ..drawing.map import MapView, map_scene


def drawn(study: SiteStudy, circuit: str) -> str:
    """The map of a place that belongs to no job: nothing in it leads anywhere."""
    href = dict.fromkeys([*study.assumed.site.elements(), "prove"], "")
    view = MapView(study, study.loops.get(circuit), href)
    return mark_safe(map_scene(view).svg(links=False))  # noqa: S308 - Scene escapes every text
