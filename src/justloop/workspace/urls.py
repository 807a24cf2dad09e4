"""Addresses of one job."""

from django.urls import path

from ..reports import views as reports
from . import views

urlpatterns = [
    path("read", views.read_line, name="read-line"),
    path("<int:pk>/edit", views.edit, name="edit"),
    path("<int:pk>/undo", views.undo, name="undo"),
    path("<int:pk>/redo", views.redo, name="redo"),
    path("<int:pk>/history", views.history, name="history"),
    path("<int:pk>/drawing/<slug:name>.svg", views.drawing, name="drawing"),
    path("<int:pk>/sheet.pdf", reports.sheet, name="sheet"),
    path("<int:pk>/<slug:stage>", views.workspace, name="workspace"),
]
