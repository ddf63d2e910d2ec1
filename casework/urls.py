"""Addresses of cases, photographs, guides and the kit."""

from django.urls import path

from casework.bench import views as bench_views
from casework.counter import views as counter_views
from casework.guides import views as guide_views
from casework.house import views as house_views
from casework.intake import views as intake_views
from casework.kit import views as kit_views
from casework.photos import views as photo_views
from casework.shelf import check_views
from casework.shelf import views as shelf_views
from casework.verdict import views as verdict_views

urlpatterns = [
    path("", counter_views.counter, name="counter"),
    path("cases/start/", counter_views.start, name="start"),
    path("cases/<int:number>/intake/", intake_views.intake, name="intake"),
    path("cases/<int:number>/steer/<slug:deed>/", intake_views.steer, name="steer"),
    path("cases/<int:number>/photos/", photo_views.photos, name="photos"),
    path("cases/<int:number>/photos/tray/", photo_views.tray, name="tray"),
    path("cases/<int:number>/photos/link/", photo_views.link, name="link"),
    path("cases/<int:number>/photos/<int:pk>/", photo_views.photo_show, name="photo-show"),
    path("cases/<int:number>/photos/<int:pk>/<slug:deed>/", photo_views.photo_work, name="photo-work"),
    path("phone/<str:secret>/", photo_views.phone, name="phone"),
    path("seen/<int:pk>/crop/", photo_views.sighting_crop, name="sighting-crop"),
    path("notes/<int:pk>/crop/", photo_views.note_crop, name="note-crop"),
    path("kit/", kit_views.kit, name="kit"),
    path("kit/ultraviolet/", kit_views.ultraviolet, name="kit-ultraviolet"),
    path("kit/sizes/", kit_views.sizes, name="kit-sizes"),
    path("kit/sizes/<int:pk>/", kit_views.chart, name="kit-chart"),
    path("house/", house_views.house, name="house"),
    path("house/password/", house_views.Password.as_view(), name="password"),
    path("house/second-factor/", house_views.second_factor, name="second-factor"),
    path("house/sessions/", house_views.sessions, name="sessions"),
    path("house/<slug:deed>/", house_views.work, name="house-work"),
    path("join/<str:secret>/", house_views.join, name="join"),
    path("first/", house_views.first, name="first"),
    path("library/", shelf_views.shelf, name="shelf"),
    path("library/makers/new/", shelf_views.maker, name="shelf-maker-new"),
    path("library/makers/<int:pk>/", shelf_views.maker, name="shelf-maker"),
    path("library/take-in/", shelf_views.take_in, name="shelf-take-in"),
    path("library/releases/<int:pk>/guide.zip", shelf_views.guide_file, name="shelf-guide-file"),
    path("library/releases/new/", shelf_views.release_new, name="shelf-release-new"),
    path("library/releases/<int:pk>/", shelf_views.release, name="shelf-release"),
    path("library/releases/<int:pk>/facts/", shelf_views.release_facts, name="shelf-release-facts"),
    path("library/releases/<int:pk>/guide/", check_views.guide, name="shelf-guide"),
    path("library/releases/<int:pk>/paper/", check_views.paper, name="shelf-paper"),
    path("library/releases/<int:pk>/order/", check_views.order, name="shelf-order"),
    path("library/releases/<int:pk>/borrow/", check_views.borrow, name="shelf-borrow"),
    path("library/checks/<int:pk>/relate/", check_views.relate, name="shelf-relate"),
    path("library/checks/<int:pk>/", check_views.check, name="shelf-check"),
    path("library/releases/<int:pk>/packing/", shelf_views.packing, name="shelf-packing"),
    path("library/releases/<int:pk>/pairs/new/", shelf_views.pair_new, name="shelf-pair-new"),
    path("library/pairs/<int:pk>/", shelf_views.pair, name="shelf-pair"),
    path("library/pairs/<int:pk>/tray/", shelf_views.pair_tray, name="shelf-pair-tray"),
    path("library/pairs/<int:pk>/photos/", shelf_views.pair_photos, name="shelf-pair-photos"),
    path("library/pairs/<int:pk>/proof.jpg", shelf_views.proof, name="shelf-proof"),
    path("library/examples/<int:pk>.jpg", guide_views.example, name="answer-example"),
    path("library/pairs/<int:pk>/<slug:deed>/", shelf_views.pair_work, name="shelf-pair-work"),
    path("library/batches/<int:pk>/", shelf_views.batch, name="shelf-batch"),
    path("cases/<int:number>/take-over/", shelf_views.take_over, name="take-over"),
    path("guides/", guide_views.guides, name="guides"),
    path("guides/kinds/", guide_views.kinds, name="guide-kinds"),
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
    path("cases/<int:number>/bench/<slug:key>/<slug:deed>/", bench_views.work, name="work"),
    path("cases/<int:number>/second/", verdict_views.second, name="look-again"),
    path("cases/<int:number>/beside/", verdict_views.beside, name="beside"),
    path("cases/<int:number>/round/", verdict_views.round_, name="next-round"),
    path("cases/<int:number>/verdict/", verdict_views.verdict, name="verdict"),
    path("cases/<int:number>/verdict/differs/", verdict_views.differs, name="differs"),
    path("cases/<int:number>/policy/", verdict_views.policy, name="policy"),
]
