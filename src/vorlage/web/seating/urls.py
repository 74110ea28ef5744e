from django.urls import path

from . import rooms, views

urlpatterns = [
    path("rooms/", rooms.rooms, name="rooms"),
    path("rooms/new/", rooms.new_room, name="new-room"),
    path("rooms/<int:pk>/", rooms.room, name="room"),
    path("rooms/<int:pk>/remove/", rooms.remove_room, name="remove-room"),
    path("form-sets/<int:pk>/seats/", views.new_plan, name="new-seat-plan"),
    path("seat-plans/<int:pk>/", views.seat_plan, name="seat-plan"),
    path("seat-plans/<int:pk>/progress/", views.progress, name="seat-plan-progress"),
    path("seat-plans/<int:pk>/stop/", views.stop, name="stop-seat-plan"),
    path("seat-plans/<int:pk>/move/", views.move, name="move-seat"),
    path("seat-plans/<int:pk>/anew/", views.anew, name="seat-anew"),
    path("seat-plans/<int:pk>/papers/", views.order_papers, name="order-class-papers"),
    path("seat-plans/<int:pk>/papers.pdf", views.class_papers, name="class-papers"),
    path("seat-plans/<int:pk>/remove/", views.remove, name="remove-seat-plan"),
]
