from django.urls import path

from . import drafts, formulas, from_fixed, look, pieces, saving, tools, views

urlpatterns = [
    path("questions/new/", views.new_question, name="new-question"),
    path("questions/formulas/", formulas.formula_book, name="formula-book"),
    path("questions/from-fixed/", from_fixed.from_fixed, name="from-fixed"),
    path("questions/from-fixed/look/", from_fixed.look_for_numbers, name="look-for-numbers"),
    path("questions/from-fixed/vary/", from_fixed.vary, name="vary"),
    path("questions/<int:pk>/", views.question, name="question"),
    path("questions/<int:pk>/look/", look.look, name="look"),
    path("questions/drafts/<int:pk>/drop/", drafts.drop_draft, name="drop-draft"),
    path("questions/preview/", views.preview_question, name="preview-question"),
    path("questions/survey/", views.survey_question, name="survey-question"),
    path("questions/tools/<slug:tool>/", tools.desk_tool, name="desk-tool"),
    path("questions/save/", saving.save_question, name="save-question"),
    path("questions/rubrics/<slug:uid>/keep/", pieces.keep_rubric, name="keep-rubric"),
    path("questions/parts/<slug:uid>/conversion/", pieces.part_conversion, name="part-conversion"),
    path("questions/parts/<slug:uid>/options/", pieces.options_of_part, name="options-of-part"),
    path("questions/pictures/", pieces.add_picture, name="add-picture"),
]
