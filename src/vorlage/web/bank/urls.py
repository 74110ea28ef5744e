from django.urls import path, re_path

from . import bulk, listing, pictures, proving, topics, tray, views

urlpatterns = [
    path("questions/", listing.questions, name="questions"),
    path("questions/facets/", listing.facets, name="facets"),
    path("questions/searches/", listing.keep_search, name="keep-search"),
    path("questions/searches/<int:pk>/drop/", listing.drop_search, name="drop-search"),
    path("questions/with/", bulk.with_questions, name="with-questions"),
    path("questions/done/<int:pk>/back/", bulk.take_back, name="take-back"),
    path("questions/work/<int:pk>/", bulk.work, name="work"),
    path("questions/proof/", proving.proofs, name="proofs"),
    path("questions/proof/now/", proving.prove_all, name="prove-all"),
    path("questions/gallery/", views.gallery, name="gallery"),
    path("questions/<int:pk>/copy/", views.copy_question, name="copy-question"),
    path("questions/<int:pk>/history/", views.history, name="question-history"),
    path("pictures/<str:signed>/", pictures.shown_picture, name="shown-picture"),
    re_path(r"^questions/pictures/(?P<digest>[0-9a-f]{64})/$", pictures.picture, name="picture"),
    path("topics/", topics.topics, name="topics"),
    path("topics/add/", topics.add_topic, name="add-topic"),
    path("topics/offers/", topics.topic_offers, name="topic-offers"),
    path("topics/<int:pk>/", topics.change_topic, name="change-topic"),
    path("tray/<int:pk>/collect/", tray.collect, name="collect"),
    path("tray/<int:pk>/back/", tray.put_back, name="put-back"),
    path("tray/arrange/", tray.arrange_tray, name="arrange-tray"),
    path("tray/empty/", tray.empty_tray, name="empty-tray"),
    path("pools/", tray.pools, name="pools"),
    path("pools/make/", tray.make_pool, name="make-pool"),
    path("pools/<int:pk>/", tray.edit_pool, name="edit-pool"),
]
