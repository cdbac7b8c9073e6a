"""The boat shed in Django REST framework, with the settings that a new project has: DEBUG is on."""
import sys

import django
from django.conf import settings
from django.core.management import execute_from_command_line

settings.configure(
    DEBUG=True, SECRET_KEY="made-up", ROOT_URLCONF=__name__, ALLOWED_HOSTS=["*"], USE_TZ=True,
    INSTALLED_APPS=["rest_framework"], MIDDLEWARE=["django.middleware.common.CommonMiddleware"],
    REST_FRAMEWORK={"UNAUTHENTICATED_USER": None, "DEFAULT_RENDERER_CLASSES": ["rest_framework.renderers.JSONRenderer"]},
)
django.setup()

from django.urls import path  # noqa: E402
from rest_framework import authentication, exceptions, serializers  # noqa: E402
from rest_framework.response import Response  # noqa: E402
from rest_framework.views import APIView  # noqa: E402

KINDS = ["sail", "motor", "row"]


class OwnerSerializer(serializers.Serializer):
    email = serializers.EmailField()
    phone = serializers.CharField(required=False)


class SailorSerializer(serializers.Serializer):
    name = serializers.CharField()
    role = serializers.ChoiceField(["skipper", "hand"])


class BoatSerializer(serializers.Serializer):
    id = serializers.IntegerField(read_only=True)
    name = serializers.CharField(max_length=40)
    length_m = serializers.FloatField(min_value=1, max_value=60)
    kind = serializers.ChoiceField(KINDS)
    owner = OwnerSerializer()
    built = serializers.DateField(required=False)
    crew = SailorSerializer(many=True, required=False)


class LaunchSerializer(serializers.Serializer):
    tide = serializers.IntegerField(min_value=1, max_value=12)


class ListSerializer(serializers.Serializer):
    limit = serializers.IntegerField(min_value=1, max_value=100, default=20)
    kind = serializers.ChoiceField(KINDS, required=False)


class Token(authentication.BaseAuthentication):
    def authenticate(self, request):
        sent = request.headers.get("Authorization")
        if sent == "Bearer made-up-token":
            return ("keeper", None)
        raise exceptions.AuthenticationFailed() if sent else exceptions.NotAuthenticated()

    def authenticate_header(self, request):
        return "Bearer"


class Taken(exceptions.APIException):
    status_code = 409
    default_detail = "The boat is launched already."
    default_code = "launched"


boats = {n: {"id": n, "name": name, "length_m": 7.5, "kind": "sail", "owner": {"email": "mira@reedmarsh.example"}}
         for n, name in enumerate(["Tern", "Heron", "Plover"], start=1)}
launched = set()


def valid(serializer):
    serializer.is_valid(raise_exception=True)
    return serializer.validated_data


def find(boat_id):
    if boat_id not in boats:
        raise exceptions.NotFound()
    return boats[boat_id]


class Boats(APIView):
    def get(self, request):
        asked = valid(ListSerializer(data=request.query_params))
        kept = [boat for boat in boats.values() if asked.get("kind", boat["kind"]) == boat["kind"]]
        return Response(BoatSerializer(kept[: asked["limit"]], many=True).data)

    def post(self, request):
        boat = {**valid(BoatSerializer(data=request.data)), "id": max(boats) + 1}
        boats[boat["id"]] = boat
        return Response(BoatSerializer(boat).data, status=201, headers={"Location": f"/boats/{boat['id']}"})


class Boat(APIView):
    def get(self, request, boat_id):
        return Response(BoatSerializer(find(boat_id)).data)

    def put(self, request, boat_id):
        find(boat_id)
        boats[boat_id] = {**valid(BoatSerializer(data=request.data)), "id": boat_id}
        return Response(BoatSerializer(boats[boat_id]).data)

    def delete(self, request, boat_id):
        find(boat_id)
        del boats[boat_id]
        return Response(status=204)


class Launch(APIView):
    def post(self, request, boat_id):
        find(boat_id)
        asked = valid(LaunchSerializer(data=request.data))
        if boat_id in launched:
            raise Taken()
        launched.add(boat_id)
        return Response({"id": boat_id, "tide": asked["tide"]})


class Survey(APIView):
    def get(self, request, boat_id):
        return Response({"id": boat_id, "frames": 100 / (boat_id - 3)})


class Logbook(APIView):
    authentication_classes = [Token]

    def get(self, request):
        return Response({"entries": []})


urlpatterns = [
    path("boats", Boats.as_view()),
    path("boats/<int:boat_id>", Boat.as_view()),
    path("boats/<int:boat_id>/launch", Launch.as_view()),
    path("boats/<int:boat_id>/survey", Survey.as_view()),
    path("logbook", Logbook.as_view()),
]
execute_from_command_line(["app.py", "runserver", "--noreload", f"127.0.0.1:{sys.argv[1]}"])
