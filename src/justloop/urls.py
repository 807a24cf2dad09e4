"""Every address of the application."""

from django.conf import settings
from django.urls import include, path

from .accounts import links, own, people, second
from .accounts import views as accounts
from .firm import views as firm
from .jobs import crew, locks_for_another, shelves
from .jobs import views as jobs
from .learn import rounds
from .learn import views as learn
from .log import offline, queued
from .planning import dates, money
from .planning import own as own_forms
from .quick import views as quick
from .reports import verifying

urlpatterns = [
    path("", jobs.job_list, name="jobs"),
    path("jobs/new", jobs.new_job, name="new-job"),
    path("jobs/<int:pk>/crew", crew.crew, name="crew"),
    path("jobs/<int:pk>/put-away", shelves.put_away, name="put-away"),
    path("jobs/<int:pk>/copy", shelves.copy, name="copy-job"),
    path("jobs/<int:pk>/log", people.job_log, name="job-log"),
    path("jobs/<int:pk>/practice", firm.practice, name="practice"),
    path("breaker-lines", firm.breaker_lines, name="breaker-lines"),
    path("breaker-lines.csv", firm.breaker_lines_file, name="breaker-lines-file"),
    path("jobs/", include("justloop.job_urls")),
    path("healthz", accounts.healthz, name="healthz"),
    path("sign-in", accounts.SignIn.as_view(), name="sign-in"),
    path("sign-in/code", second.sign_in_code, name="sign-in-code"),
    path("sign-out", accounts.sign_out, name="sign-out"),
    path("join/<slug:secret>", links.join, name="join"),
    path("new-password/<slug:secret>", links.new_password, name="new-password"),
    path("you", own.me, name="me"),
    path("you/elsewhere", own.sign_out_elsewhere, name="sign-out-elsewhere"),
    path("you/second-factor", second.set_up, name="second-factor"),
    path("you/recovery-codes", second.new_codes, name="recovery-codes"),
    path("you/second-factor/off", second.turn_off, name="second-factor-off"),
    path("quick", quick.quick, name="quick"),
    path("firm", firm.firm, name="firm"),
    path("firm/people", people.people, name="people"),
    path("firm/log", people.log, name="log"),
    path("firm/locks", locks_for_another.for_another, name="locks-for-another"),
    path("field/ready", queued.ready, name="field-ready"),
    path("sw.js", offline.worker, name="service-worker"),
    path("learn", learn.learn, name="learn"),
    path("learn/try/<slug:key>", learn.attempt, name="learn-try"),
    path("learn/sizes/<slug:topic>", learn.sizes, name="learn-sizes"),
    path("learn/lessons/<int:number>", learn.lesson, name="lesson"),
    path("learn/known", learn.known, name="known"),
    path("learn/known.csv", learn.known_csv, name="known-csv"),
    path("learn/rounds", rounds.begin_round, name="begin-round"),
    path("learn/rounds/<int:number>", rounds.show_round, name="round"),
    path("learn/rounds/<int:number>/play", rounds.play, name="play"),
    path("verify", verifying.verify, name="verify"),
    path("key", verifying.keys, name="keys"),
    path("prices.csv", money.prices_csv, name="prices-csv"),
    path("procedures/<slug:key>.yaml", own_forms.form_out, name="form-out"),
    path("calendar/<slug:secret>.ics", dates.feed, name="feed"),
    path("theme", accounts.theme, name="theme"),
]
if settings.DEMO:
    urlpatterns.append(path("demo-sign-in", accounts.demo_sign_in, name="demo-sign-in"))

handler403 = "justloop.accounts.views.not_allowed"
handler404 = "justloop.accounts.views.not_found"
handler500 = "justloop.accounts.views.broken"
