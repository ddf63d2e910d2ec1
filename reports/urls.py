from django.urls import path

from reports import views

urlpatterns = [
    path("cases/<int:number>/case.json", views.case_json, name="case-json"),
    path("cases/<int:number>/certificate/", views.certificate, name="certificate"),
    path("cases/<int:number>/bag.zip", views.case_bag, name="case-bag"),
    path("bags/", views.bags, name="bags"),
    path("verify/<str:secret>/", views.verify, name="verify"),
    path("cases/<int:number>/findings.csv", views.case_csv, name="case-csv"),
    path("library/releases/<int:pk>/sheet/", views.sheet, name="library-sheet"),
    path("library/releases/<int:pk>/sheet.pdf", views.sheet_pdf, name="library-sheet-pdf"),
    path("kit/bench-card.pdf", views.bench_card_pdf, name="bench-card-pdf"),
    path("kit/bench-card.svg", views.bench_card_svg, name="bench-card-svg"),
]
