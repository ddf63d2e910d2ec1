"""Addresses of cases, photographs, guides and the kit."""

from django.urls import path

from casework.bench import views as bench_views
from casework.counter import views as counter_views
from casework.differences import views as difference_views
from casework.drafts import views as draft_views
from casework.guides import views as guide_views
from casework.intake import views as intake_views
from casework.kit import views as kit_views
from casework.library_screens import check_views
from casework.library_screens import photo_views as retail_photo_views
from casework.library_screens import views as library_views
from casework.logbook import views as logbook_views
from casework.photos import views as photo_views
from casework.sets import views as set_views
from casework.shop import policy
from casework.shop import views as organisation_views
from casework.verdict import views as verdict_views

urlpatterns = [
    path("", counter_views.counter, name="counter"),
    path("cases/start/", counter_views.start, name="start"),
    path("cases/arrivals/<uuid:token>/", counter_views.arrivals, name="arrivals"),
    path("sets/", set_views.new, name="sets-new"),
    path("sets/<uuid:token>/", set_views.sets, name="sets"),
    path("sets/<uuid:token>/photos/", set_views.tray, name="sets-tray"),
    path("sets/<uuid:token>/progress/", set_views.progress, name="sets-progress"),
    path("sets/<uuid:token>/differences.json", set_views.export, name="sets-export"),
    path("sets/<uuid:token>/<slug:side>/", set_views.add, name="sets-add"),
    path("sets/photo/<int:pk>/", set_views.photo, name="sets-photo"),
    path("cases/<int:number>/intake/", intake_views.intake, name="intake"),
    path("cases/<int:number>/desk/", intake_views.desk, name="desk"),
    path("cases/<int:number>/differences/", difference_views.differences, name="differences"),
    path("cases/<int:number>/differences/<int:pk>/seen/", difference_views.sighting, name="difference-seen"),
    path("cases/<int:number>/amend/<slug:action>/", intake_views.amend, name="amend"),
    path("cases/<int:number>/photos/", photo_views.photos, name="photos"),
    path("cases/<int:number>/photos/tray/", photo_views.tray, name="tray"),
    path("client-link/", photo_views.client_link, name="client-link"),
    path("cases/<int:number>/photos/link/", photo_views.link, name="link"),
    path("cases/<int:number>/photos/<int:pk>/", photo_views.photo_show, name="photo-show"),
    path("cases/<int:number>/photos/<int:pk>/<slug:action>/", photo_views.photo_work, name="photo-work"),
    path("phone/<str:secret>/", photo_views.phone, name="phone"),
    path("phone/<str:secret>/parts/<uuid:token>/", photo_views.phone_part, name="phone-part"),
    path("seen/<int:pk>/crop/", photo_views.sighting_crop, name="sighting-crop"),
    path("notes/<int:pk>/crop/", photo_views.note_crop, name="note-crop"),
    path("kit/", kit_views.kit, name="kit"),
    path("kit/ultraviolet/allowed/", kit_views.uv_allowed, name="uv-allowed"),
    path("kit/ultraviolet/", kit_views.ultraviolet, name="kit-ultraviolet"),
    path("kit/validation/", kit_views.validate, name="kit-validation"),
    path("kit/validation.csv", kit_views.validation_csv, name="kit-validation-csv"),
    path("kit/sizes/", kit_views.sizes, name="kit-sizes"),
    path("kit/sizes/<int:pk>/", kit_views.chart, name="kit-chart"),
    path("shop/", organisation_views.organisation, name="shop"),
    path("shop/password/", organisation_views.Password.as_view(), name="password"),
    path("shop/second-factor/", organisation_views.second_factor, name="second-factor"),
    path("shop/sessions/", organisation_views.sessions, name="sessions"),
    path("shop/policy/", policy.policy, name="policy"),
    path("shop/policy/thresholds/", policy.thresholds, name="policy-thresholds"),
    path("shop/<slug:action>/", organisation_views.work, name="shop-work"),
    path("join/<str:secret>/", organisation_views.join, name="join"),
    path("first/", organisation_views.first, name="first"),
    path("library/", library_views.library, name="library"),
    path("library/makers/new/", library_views.maker, name="library-maker-new"),
    path("library/makers/<int:pk>/", library_views.maker, name="library-maker"),
    path("library/take-in/", library_views.take_in, name="library-take-in"),
    path("library/releases/<int:pk>/guide.zip", library_views.guide_file, name="library-guide-file"),
    path("library/makers/changes/<int:pk>/<slug:action>/", library_views.maker_change, name="library-maker-change"),
    path("library/releases/new/", library_views.release_new, name="library-release-new"),
    path("library/releases/<int:pk>/", library_views.release, name="library-release"),
    path("library/releases/<int:pk>/facts/", library_views.release_facts, name="library-release-facts"),
    path("library/releases/<int:pk>/guide/", check_views.guide, name="library-guide"),
    path("library/releases/<int:pk>/paper/", check_views.paper, name="library-paper"),
    path("library/releases/<int:pk>/order/", check_views.order, name="library-order"),
    path("library/releases/<int:pk>/borrow/", check_views.borrow, name="library-borrow"),
    path("library/checks/<int:pk>/relate/", check_views.relate, name="library-relate"),
    path("library/checks/<int:pk>/", check_views.check, name="library-check"),
    path("library/releases/<int:pk>/packing/", library_views.packing, name="library-packing"),
    path("library/pairs/from-photos/", library_views.pair_from_drop, name="library-pair-from-photos"),
    path("library/releases/<int:pk>/pairs/new/", library_views.pair_new, name="library-pair-new"),
    path("library/pairs/<int:pk>/", library_views.pair, name="library-pair"),
    path("library/pairs/<int:pk>/tray/", library_views.pair_tray, name="library-pair-tray"),
    path("library/pairs/<int:pk>/photos/", library_views.pair_photos, name="library-pair-photos"),
    path("library/pairs/<int:pk>/proof.jpg", library_views.proof, name="library-proof"),
    path("library/examples/<int:pk>.jpg", guide_views.example, name="answer-example"),
    path("library/pairs/<int:pk>/photos/<int:photo>/", retail_photo_views.show, name="library-photo"),
    path(
        "library/pairs/<int:pk>/photos/<int:photo>/<slug:action>/", retail_photo_views.work, name="library-photo-work"
    ),
    path("library/pairs/<int:pk>/<slug:action>/", library_views.pair_work, name="library-pair-work"),
    path("library/batches/<int:pk>/", library_views.batch, name="library-batch"),
    path("cases/<int:number>/take-over/", library_views.take_over, name="take-over"),
    path("guides/", guide_views.guides, name="guides"),
    path("guides/kinds/", guide_views.kinds, name="guide-kinds"),
    path("guides/measure.jpg", guide_views.measure_picture, name="measure-picture"),
    path("guides/releases/<int:pk>/draft/", draft_views.draft, name="guide-draft"),
    path("guides/releases/<int:pk>/draft/progress/", draft_views.progress, name="guide-draft-progress"),
    path("guides/releases/<int:pk>/draft/<int:proposal>/<slug:action>/", draft_views.decide, name="guide-draft-decide"),
    path("guides/releases/<int:pk>/questions/", guide_views.questions, name="guide-questions"),
    path("guides/releases/<int:pk>/questions/<slug:key>/", guide_views.question, name="guide-question"),
    path("guides/pairs/<int:pk>/photo/", guide_views.retail_photo, name="guide-retail-photo"),
    path("guides/<int:pk>/draw/", guide_views.draw, name="guide-draw"),
    path("guides/<int:pk>/checks/<slug:key>/", guide_views.check, name="guide-check"),
    path("guides/<int:pk>/checks/<slug:key>/marks/", guide_views.check_marks, name="guide-check-marks"),
    path("guides/<int:pk>/checks/<slug:key>/feet/", guide_views.check_feet, name="guide-check-feet"),
    path("guides/<int:pk>/try/", guide_views.attempt, name="guide-try"),
    path("cases/<int:number>/measure/", bench_views.measure, name="measure"),
    path("cases/<int:number>/progress/", bench_views.progress, name="progress"),
    path("cases/<int:number>/bench/", bench_views.bench, name="bench"),
    path("cases/<int:number>/bench/<slug:key>/", bench_views.bench, name="bench-at"),
    path("cases/<int:number>/bench/<slug:key>/seen/", bench_views.seen, name="seen"),
    path("cases/<int:number>/bench/<slug:key>/seen/<int:pk>/back/", bench_views.seen_back, name="seen-back"),
    path("cases/<int:number>/bench/<slug:key>/gauge/", bench_views.gauge, name="gauge"),
    path("cases/<int:number>/bench/<slug:key>/<slug:action>/", bench_views.work, name="work"),
    path("cases/<int:number>/second/", verdict_views.second, name="look-again"),
    path("cases/<int:number>/second/ask/", verdict_views.ask_second, name="ask-second"),
    path("cases/<int:number>/beside/", verdict_views.beside, name="beside"),
    path("cases/<int:number>/round/", verdict_views.round_, name="next-round"),
    path("cases/<int:number>/verdict/", verdict_views.verdict, name="verdict"),
    path("cases/<int:number>/verdict/differs/", verdict_views.differs, name="differs"),
    path("logbook/", logbook_views.logbook, name="logbook"),
    path("logbook/learned/", logbook_views.learned, name="learned"),
    path("logbook/cases.<slug:kind>", logbook_views.export, name="logbook-export"),
    path("logbook/recalibrate/", logbook_views.recalibrate, name="recalibrate"),
    path("logbook/suggestions/<int:pk>/", logbook_views.suggestion, name="suggestion"),
    path("cases/<int:number>/outcome/", logbook_views.outcome, name="outcome"),
]
