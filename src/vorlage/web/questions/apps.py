from django.apps import AppConfig


class QuestionsConfig(AppConfig):
    name = "vorlage.web.questions"
    label = "questions"
