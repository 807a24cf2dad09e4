"""Addresses of one job."""

from django.urls import path

from .find import views as find
from .log import evidence, instruments
from .log import views as log
from .planning import dates, money, office, own, visits, work
from .reports import labels, parts, record
from .reports import views as reports
from .workspace import files, history, views

urlpatterns = [
    path("read", views.read_line, name="read-line"),
    path("open", files.open_file, name="open-file"),
    path("<int:pk>/edit", views.edit, name="edit"),
    path("<int:pk>/keep", views.keep, name="keep"),
    path("<int:pk>/discard", views.discard, name="discard"),
    path("<int:pk>/undo", views.undo, name="undo"),
    path("<int:pk>/redo", views.redo, name="redo"),
    path("<int:pk>/history", history.history, name="history"),
    path("<int:pk>/history/<int:number>", history.old, name="old-revision"),
    path("<int:pk>/history/<int:number>/name", history.name, name="name-revision"),
    path("<int:pk>/history/<int:number>/go-on", history.go_on, name="go-on"),
    path("<int:pk>/history/<int:number>/kept.json", history.raw, name="raw-revision"),
    path("<int:pk>/compare", history.compare, name="compare"),
    path("<int:pk>/drawing/<slug:name>.svg", files.drawing, name="drawing"),
    path("<int:pk>/job.json", files.job_file, name="job-file"),
    path("<int:pk>/circuits.csv", files.circuits, name="circuits-file"),
    path("<int:pk>/practice.json", files.practice, name="practice-file"),
    path("<int:pk>/test-sheet", files.test_sheet, name="test-sheet"),
    path("<int:pk>/door-card/<slug:panel>.pdf", reports.door_card, name="door-card"),
    path("<int:pk>/door-card/<slug:panel>.svg", reports.door_card_svg, name="door-card-svg"),
    path("<int:pk>/record.pdf", record.record, name="record"),
    path("<int:pk>/sheet.pdf", reports.sheet, name="sheet"),
    path("<int:pk>/labels/<slug:array>.pdf", labels.labels_pdf, name="array-labels"),
    path("<int:pk>/labels/<slug:array>.svg", labels.labels_svg, name="array-labels-svg"),
    path("<int:pk>/readings/back", views.read_back, name="read-back"),
    path("<int:pk>/readings/add", log.add_readings, name="add-readings"),
    path("<int:pk>/readings/<int:number>/use", log.use_reading, name="use-reading"),
    path("<int:pk>/readings/<int:number>/drop", log.drop_reading, name="drop-reading"),
    path("<int:pk>/readings/file", log.readings_file, name="readings-file"),
    path("<int:pk>/instruments", instruments.instruments, name="instruments"),
    path("<int:pk>/photos/add", evidence.add_photos, name="add-photos"),
    path("<int:pk>/photos/<int:number>", evidence.photo, name="photo"),
    path("<int:pk>/photos/<int:number>.jpg", evidence.image, name="photo-image"),
    path(
        "<int:pk>/photos/<int:number>/small.jpg",
        evidence.image,
        {"small": True},
        name="photo-small",
    ),
    path("<int:pk>/slots/note", evidence.note_slot, name="note-slot"),
    path("<int:pk>/readings/keep", log.keep_reading, name="keep-reading"),
    path("<int:pk>/readings.csv", log.readings_csv, name="readings-csv"),
    path("<int:pk>/readings.json", log.readings_json, name="readings-json"),
    path("<int:pk>/work/begin", work.begin, name="begin-work"),
    path("<int:pk>/work/<int:number>", work.work, name="work"),
    path("<int:pk>/work/<int:number>/tick", work.tick, name="tick-step"),
    path("<int:pk>/work/<int:number>/enter", work.enter, name="enter-step"),
    path("<int:pk>/work/<int:number>/back", work.take_back, name="take-back"),
    path("<int:pk>/parts.csv", money.parts_csv, name="parts-csv"),
    path("<int:pk>/prices", money.prices_in, name="prices-in"),
    path("<int:pk>/parts.pdf", parts.parts_pdf, name="parts-pdf"),
    path("<int:pk>/dates", dates.date_form, name="dates"),
    path("<int:pk>/dates.ics", dates.job_calendar, name="job-calendar"),
    path("<int:pk>/dates/file", dates.calendar_in, name="calendar-in"),
    path("<int:pk>/dates/feed", dates.feed_form, name="feed-form"),
    path("<int:pk>/office", office.to_office, name="office"),
    path("<int:pk>/procedures", own.form_in, name="form-in"),
    path("<int:pk>/visits/begin", visits.begin_visit, name="begin-visit"),
    path("<int:pk>/visits/<int:number>", visits.visit, name="visit"),
    path("<int:pk>/visits/<int:number>/do", visits.visit_form, name="visit-form"),
    path("<int:pk>/find", find.find, name="find-circuits"),
    path("<int:pk>/find/now", find.now, name="find-now"),
    path("<int:pk>/<slug:stage>", views.workspace, name="workspace"),
]
