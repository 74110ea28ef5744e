from django.urls import path, re_path

from . import formulas, pieces, varying, views

urlpatterns = [
    path("questions/", views.questions, name="questions"),
    path("questions/new/", views.new_question, name="new-question"),
    path("questions/gallery/", views.gallery, name="gallery"),
    path("questions/formulas/", formulas.formula_book, name="formula-book"),
    path("questions/from-fixed/", varying.from_fixed, name="from-fixed"),
    path("questions/from-fixed/look/", varying.look_for_numbers, name="look-for-numbers"),
    path("questions/from-fixed/vary/", varying.vary, name="vary"),
    path("questions/<int:pk>/", views.question, name="question"),
    path("questions/<int:pk>/history/", views.history, name="question-history"),
    path("questions/drafts/<int:pk>/drop/", views.drop_draft, name="drop-draft"),
    path("questions/preview/", views.preview_question, name="preview-question"),
    path("questions/survey/", views.survey_question, name="survey-question"),
    path("questions/save/", views.save_question, name="save-question"),
    path("questions/rows/parameter/", pieces.new_parameter, name="new-parameter"),
    path("questions/rows/condition/", pieces.new_condition, name="new-condition"),
    path("questions/rows/table/", pieces.new_table, name="new-table"),
    path("questions/rows/option/<slug:uid>/", pieces.new_option, name="new-option"),
    path("questions/rows/gap/<slug:uid>/", pieces.new_gap, name="new-gap"),
    path("questions/rubrics/<slug:uid>/keep/", pieces.keep_rubric, name="keep-rubric"),
    path("questions/parts/<slug:uid>/conversion/", pieces.part_conversion, name="part-conversion"),
    path("questions/parts/<slug:uid>/options/", pieces.options_of_part, name="options-of-part"),
    path("questions/rows/figure/", pieces.new_figure, name="new-figure"),
    path("questions/pictures/", pieces.add_picture, name="add-picture"),
    re_path(r"^questions/pictures/(?P<digest>[0-9a-f]{64})/$", pieces.picture, name="picture"),
    path("questions/rows/part/", pieces.new_part, name="new-part"),
]
