#!/usr/bin/perl
# The boat shed in Mojolicious, with its OpenAPI plugin: the plugin's validator and its own answers.
use Mojolicious::Lite -signatures;

my %owner = (email => 'mira@reedmarsh.example');
my %boats = map { my ($id, $name) = @$_; $id => {id => $id, name => $name, length_m => 7.5, kind => 'sail', owner => \%owner} }
  ([1, 'Tern'], [2, 'Heron'], [3, 'Plover']);
my %launched;

sub found ($c) {
  my $boat = $boats{$c->param('id')};
  $c->render(openapi => {errors => [{message => 'Boat not found', path => '/id'}]}, status => 404) unless $boat;
  return $boat;
}

get '/boats' => sub ($c) {
  $c = $c->openapi->valid_input or return;
  my $kind = $c->param('kind');
  my @kept = grep { !$kind || $_->{kind} eq $kind } map { $boats{$_} } sort keys %boats;
  my $limit = $c->param('limit') // 20;
  $c->render(openapi => [splice @kept, 0, $limit]);
}, 'list';
post '/boats' => sub ($c) {
  $c = $c->openapi->valid_input or return;
  my $id = 1 + (sort { $b <=> $a } keys %boats)[0];
  $boats{$id} = {%{$c->req->json}, id => $id};
  $c->res->headers->location("/boats/$id");
  $c->render(openapi => $boats{$id}, status => 201);
}, 'create';
get '/boats/:id' => sub ($c) {
  $c = $c->openapi->valid_input or return;
  my $boat = found($c) or return;
  $c->render(openapi => $boat);
}, 'show';
put '/boats/:id' => sub ($c) {
  $c = $c->openapi->valid_input or return;
  my $boat = found($c) or return;
  $c->render(openapi => $boats{$boat->{id}} = {%{$c->req->json}, id => $boat->{id}});
}, 'replace';
del '/boats/:id' => sub ($c) {
  $c = $c->openapi->valid_input or return;
  my $boat = found($c) or return;
  delete $boats{$boat->{id}};
  $c->render(data => '', status => 204);
}, 'remove';
post '/boats/:id/launch' => sub ($c) {
  $c = $c->openapi->valid_input or return;
  my $boat = found($c) or return;
  return $c->render(openapi => {errors => [{message => 'The boat is launched already', path => '/id'}]}, status => 409)
    if $launched{$boat->{id}}++;
  $c->render(openapi => {id => $boat->{id}, tide => $c->req->json->{tide}});
}, 'launch';
get '/boats/:id/survey' => sub ($c) {
  $c = $c->openapi->valid_input or return;
  my $boat = found($c) or return;
  $c->render(openapi => {id => $boat->{id}, frames => 100 / ($boat->{id} - 3)});
}, 'survey';
get '/logbook' => sub ($c) {
  return $c->render(json => {errors => [{message => 'Not authenticated', path => '/'}]}, status => 401)
    unless ($c->req->headers->authorization // '') eq 'Bearer made-up-token';
  $c->render(json => {entries => []});
};

plugin OpenAPI => {url => 'data:///openapi.json'};
app->mode('development');
app->log->level('fatal');
app->start('daemon', '-l', "http://127.0.0.1:$ARGV[0]");

__DATA__
@@ openapi.json
{
  "openapi": "3.0.3",
  "info": {"title": "Boat shed", "version": "1"},
  "paths": {
    "/boats": {
      "get": {"x-mojo-name": "list", "parameters": [
        {"name": "limit", "in": "query", "schema": {"type": "integer", "minimum": 1, "maximum": 100}},
        {"name": "kind", "in": "query", "schema": {"type": "string", "enum": ["sail", "motor", "row"]}}],
        "responses": {"200": {"description": "boats"}}},
      "post": {"x-mojo-name": "create", "requestBody": {"$ref": "#/components/requestBodies/boat"},
        "responses": {"201": {"description": "the boat"}}}
    },
    "/boats/{id}": {
      "parameters": [{"$ref": "#/components/parameters/id"}],
      "get": {"x-mojo-name": "show", "responses": {"200": {"description": "the boat"}, "404": {"description": "none"}}},
      "put": {"x-mojo-name": "replace", "requestBody": {"$ref": "#/components/requestBodies/boat"},
        "responses": {"200": {"description": "the boat"}, "404": {"description": "none"}}},
      "delete": {"x-mojo-name": "remove", "responses": {"204": {"description": "gone"}, "404": {"description": "none"}}}
    },
    "/boats/{id}/launch": {
      "parameters": [{"$ref": "#/components/parameters/id"}],
      "post": {"x-mojo-name": "launch",
        "requestBody": {"required": true, "content": {"application/json": {"schema": {"type": "object", "required": ["tide"],
          "properties": {"tide": {"type": "integer", "minimum": 1, "maximum": 12}}}}}},
        "responses": {"200": {"description": "launched"}, "404": {"description": "none"}, "409": {"description": "is launched"}}}
    },
    "/boats/{id}/survey": {
      "parameters": [{"$ref": "#/components/parameters/id"}],
      "get": {"x-mojo-name": "survey", "responses": {"200": {"description": "the survey"}, "404": {"description": "none"}}}
    }
  },
  "components": {
    "parameters": {"id": {"name": "id", "in": "path", "required": true, "schema": {"type": "integer"}}},
    "requestBodies": {"boat": {"required": true, "content": {"application/json": {"schema": {"$ref": "#/components/schemas/boat"}}}}},
    "schemas": {
      "boat": {
        "type": "object", "required": ["name", "length_m", "kind", "owner"],
        "properties": {
          "name": {"type": "string", "minLength": 1, "maxLength": 40},
          "length_m": {"type": "number", "minimum": 1, "maximum": 60},
          "kind": {"type": "string", "enum": ["sail", "motor", "row"]},
          "owner": {"type": "object", "required": ["email"], "properties": {"email": {"type": "string", "format": "email"}, "phone": {"type": "string"}}},
          "built": {"type": "string", "format": "date"},
          "crew": {"type": "array", "items": {"type": "object", "required": ["name", "role"], "properties": {
            "name": {"type": "string", "minLength": 1}, "role": {"type": "string", "enum": ["skipper", "hand"]}}}}
        }
      }
    }
  }
}
