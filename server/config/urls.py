"""Addresses: the API, the live link, the two pages that open by code, and the bench for everything else."""

from django.urls import path, re_path

from server.common.errors import not_found
from server.common.pages import bench_page
from server.config.api import api
from server.inspections import public
from server.inspections.guiding import snap_frame
from server.inspections.live import job_events, run_events
from server.proving import sensing
from server.reports.links import owner_link_page
from server.touch import public as touch
from server.touch.home import home_page

urlpatterns = [
    path("api/jobs/<int:job_id>/events", job_events),
    path("api/", api.urls),
    path("g/<str:code>", public.glass_page),
    path("g/<str:code>/state", public.glass_state),
    path("g/<str:code>/report", public.glass_report),
    path("g/<str:code>/step", public.glass_step),
    path("g/<str:code>/touch", touch.touch_state),
    path("g/<str:code>/touch/<int:session_id>", touch.touch_part),
    path("g/<str:code>/events", run_events, {"kind": "glass"}),
    path("g/<str:code>/<str:pattern_id>.png", public.glass_pattern),
    path("f/<str:code>", sensing.sense_page),
    path("f/<str:code>/state", sensing.sense_state),
    path("f/<str:code>/sensed", sensing.sensed),
    path("h/<str:code>", home_page),
    path("s/<str:code>", public.snap_page),
    path("s/<str:code>/state", public.snap_state),
    path("s/<str:code>/photos", public.snap_photo),
    path("s/<str:code>/step", public.snap_step),
    path("s/<str:code>/frame", snap_frame),
    path("s/<str:code>/events", run_events, {"kind": "snap"}),
    path("r/<str:code>", owner_link_page),
    re_path(r"^(api|f|g|h|s|r)(/|$)", not_found),
    re_path(r"^(?!static/).*$", bench_page),
]

handler400 = "server.common.errors.bad_request"
handler403 = "server.common.errors.forbidden"
handler404 = "server.common.errors.not_found"
handler500 = "server.common.errors.server_error"
