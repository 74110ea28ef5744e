from django.urls import path

from . import acting, afterwards, on_paper, second, stack, views

urlpatterns = [
    path("marking/", views.station, name="marking"),
    path("marking/<int:pk>/", views.whole, name="mark-sitting"),
    path("marking/<int:pk>/student/<int:taking>/", views.student, name="mark-student"),
    path("marking/<int:pk>/results/", afterwards.results, name="results"),
    path("marking/<int:pk>/results.<str:kind>", afterwards.results_table, name="results-table"),
    path("marking/<int:pk>/returned/", stack.download, name="class-work"),
    path("marking/<int:pk>/returned/order/", stack.order, name="order-class-work"),
    path("marking/<int:pk>/returned/progress/", stack.progress, name="class-work-progress"),
    path("marking/<int:pk>/counting/", afterwards.counting, name="counting"),
    path("marking/<int:pk>/change/show/", afterwards.show_change, name="show-change"),
    path("marking/<int:pk>/change/make/", afterwards.make_change, name="make-change"),
    path("marking/<int:pk>/change/undo/", afterwards.undo_change, name="undo-change"),
    path("marking/<int:pk>/paper/", on_paper.papers, name="papers-to-key"),
    path("marking/<int:pk>/paper/<int:taking>/", on_paper.one_paper, name="paper-to-key"),
    path("marking/<int:pk>/paper/<int:taking>/key/", on_paper.key_paper, name="key-paper"),
    path("marking/<int:pk>/second/", second.seconds, name="second-markings"),
    path("marking/<int:pk>/second/ask/", second.ask, name="ask-second-marking"),
    path("marking/<int:pk>/second/<int:marking>/", second.one, name="second-marking"),
    path("marking/<int:pk>/second/<int:marking>/give/", second.give_second, name="give-second"),
    path("marking/<int:pk>/second/<int:marking>/settle/", second.settle, name="settle-second"),
    path("marking/<int:pk>/rule/", acting.set_rule, name="mark-rule"),
    path("marking/<int:pk>/<int:candidate>/<slug:part>/", views.part, name="mark-part"),
    path("marking/<int:pk>/<int:candidate>/<slug:part>/change/", afterwards.change_part, name="change-part"),
    path("marking/<int:pk>/<int:candidate>/<slug:part>/give/", acting.give_marks, name="give-marks"),
    path("marking/<int:pk>/<int:candidate>/<slug:part>/back/", acting.back_to_rule, name="marks-by-rule"),
    path("marking/<int:pk>/<int:candidate>/<slug:part>/typed/", acting.keep_typed, name="keep-typed"),
    path("marking/<int:pk>/<int:candidate>/<slug:part>/slip/", acting.write_slip, name="write-slip"),
]
