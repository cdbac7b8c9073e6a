<?php
// The boat shed in Symfony: its validator, its serializer's answers to violations and exceptions, in production mode.
require "/usr/share/php/Symfony/Component/HttpKernel/autoload.php";
require "/usr/share/php/Symfony/Bundle/FrameworkBundle/autoload.php";
require "/usr/share/php/Symfony/Component/Serializer/autoload.php";
require "/usr/share/php/Symfony/Component/Validator/autoload.php";
require "/usr/share/php/Symfony/Component/PropertyAccess/autoload.php";
require "/usr/share/php/Symfony/Component/PropertyInfo/autoload.php";

use Symfony\Bundle\FrameworkBundle\Controller\AbstractController;
use Symfony\Bundle\FrameworkBundle\FrameworkBundle;
use Symfony\Bundle\FrameworkBundle\Kernel\MicroKernelTrait;
use Symfony\Component\DependencyInjection\Loader\Configurator\ContainerConfigurator;
use Symfony\Component\HttpFoundation\JsonResponse;
use Symfony\Component\HttpFoundation\Request;
use Symfony\Component\HttpFoundation\Response;
use Symfony\Component\HttpKernel\Exception\BadRequestHttpException;
use Symfony\Component\HttpKernel\Exception\ConflictHttpException;
use Symfony\Component\HttpKernel\Exception\NotFoundHttpException;
use Symfony\Component\HttpKernel\Exception\UnauthorizedHttpException;
use Symfony\Component\HttpKernel\Exception\UnsupportedMediaTypeHttpException;
use Symfony\Component\HttpKernel\Kernel;
use Symfony\Component\Routing\Loader\Configurator\RoutingConfigurator;
use Symfony\Component\Serializer\SerializerInterface;
use Symfony\Component\Validator\Constraints as Is;
use Symfony\Component\Validator\Validator\ValidatorInterface;

class Shed extends Kernel
{
    use MicroKernelTrait;
    private string $store;

    public function registerBundles(): iterable { return [new FrameworkBundle()]; }
    public function getProjectDir(): string { return __DIR__; }

    protected function configureContainer(ContainerConfigurator $c): void
    {
        $c->extension("framework", ["secret" => "made-up", "serializer" => ["enabled" => true], "validation" => ["enabled" => true],
            "http_method_override" => false, "php_errors" => ["log" => false]]);
        $c->services()->set("logger", \Psr\Log\NullLogger::class);
        $c->services()->set(Boats::class)->class(Boats::class)->autowire()->autoconfigure()->public();
    }

    protected function configureRoutes(RoutingConfigurator $routes): void
    {
        $routes->add("list", "/boats")->controller([Boats::class, "list"])->methods(["GET"])->format("json");
        $routes->add("create", "/boats")->controller([Boats::class, "create"])->methods(["POST"])->format("json");
        $routes->add("show", "/boats/{id}")->controller([Boats::class, "show"])->methods(["GET"])->format("json")->requirements(["id" => "\d+"]);
        $routes->add("replace", "/boats/{id}")->controller([Boats::class, "replace"])->methods(["PUT"])->format("json")->requirements(["id" => "\d+"]);
        $routes->add("delete", "/boats/{id}")->controller([Boats::class, "delete"])->methods(["DELETE"])->format("json")->requirements(["id" => "\d+"]);
        $routes->add("launch", "/boats/{id}/launch")->controller([Boats::class, "launch"])->methods(["POST"])->format("json");
        $routes->add("survey", "/boats/{id}/survey")->controller([Boats::class, "survey"])->methods(["GET"])->format("json");
        $routes->add("logbook", "/logbook")->controller([Boats::class, "logbook"])->methods(["GET"])->format("json");
    }
}

class Boats extends AbstractController
{
    private array $boats;
    private string $file;

    public function __construct(private ValidatorInterface $validator, private SerializerInterface $serializer)
    {
        $this->file = __DIR__ . "/var/boats.json";
        $this->boats = is_file($this->file) ? json_decode(file_get_contents($this->file), true) : [];
        foreach ($this->boats ? [] : ["Tern", "Heron", "Plover"] as $i => $name) {
            $this->boats[$i + 1] = ["id" => $i + 1, "name" => $name, "length_m" => 7.5, "kind" => "sail", "owner" => ["email" => "mira@reedmarsh.example"]];
        }
    }

    private function rules(): Is\Collection
    {
        $text = [new Is\NotBlank(), new Is\Type("string")];
        return new Is\Collection(["fields" => [
            "name" => [...$text, new Is\Length(["max" => 40])],
            "length_m" => [new Is\NotNull(), new Is\Type("numeric"), new Is\Range(["min" => 1, "max" => 60])],
            "kind" => [new Is\NotNull(), new Is\Choice(["sail", "motor", "row"])],
            "owner" => new Is\Collection(["fields" => ["email" => [...$text, new Is\Email()], "phone" => new Is\Optional([new Is\Type("string")])]]),
            "built" => new Is\Optional([new Is\Date()]),
            "crew" => new Is\Optional([new Is\All([new Is\Collection(["fields" => ["name" => $text, "role" => [new Is\Choice(["skipper", "hand"])]]])])]),
        ], "allowExtraFields" => true]);
    }

    private function read(Request $request, $rules): array|Response
    {
        if ($request->getContentType() !== "json") { throw new UnsupportedMediaTypeHttpException("Send JSON."); }
        $data = json_decode($request->getContent(), true);
        if (json_last_error()) { throw new BadRequestHttpException("Malformed JSON: " . json_last_error_msg()); }
        return $this->checked($data, $rules);
    }

    private function checked($data, $rules): array|Response
    {
        $violations = $this->validator->validate($data, $rules);
        return count($violations) ? new Response($this->serializer->serialize($violations, "json"), 422, ["Content-Type" => "application/problem+json"]) : $data;
    }

    private function find($id): array { return $this->boats[$id] ?? throw new NotFoundHttpException("There is no boat $id."); }
    private function save(): void { file_put_contents($this->file, json_encode($this->boats)); }

    public function list(Request $request): Response
    {
        $asked = $this->checked($request->query->all(), new Is\Collection(["fields" => [
            "limit" => new Is\Optional([new Is\Regex("/^\d+$/"), new Is\Range(["min" => 1, "max" => 100])]),
            "kind" => new Is\Optional([new Is\Choice(["sail", "motor", "row"])])]]));
        if ($asked instanceof Response) { return $asked; }
        return new JsonResponse(array_slice(array_values($this->boats), 0, $asked["limit"] ?? 20));
    }

    public function create(Request $request): Response
    {
        $boat = $this->read($request, $this->rules());
        if ($boat instanceof Response) { return $boat; }
        $id = max(array_keys($this->boats)) + 1;
        $this->boats[$id] = ["id" => $id] + $boat;
        $this->save();
        return new JsonResponse($this->boats[$id], 201, ["Location" => "/boats/$id"]);
    }

    public function show($id): Response { return new JsonResponse($this->find($id)); }

    public function replace($id, Request $request): Response
    {
        $this->find($id);
        $boat = $this->read($request, $this->rules());
        if ($boat instanceof Response) { return $boat; }
        $this->boats[$id] = ["id" => (int) $id] + $boat;
        $this->save();
        return new JsonResponse($this->boats[$id]);
    }

    public function delete($id): Response
    {
        $this->find($id);
        unset($this->boats[$id]);
        $this->save();
        return new Response(null, 204);
    }

    public function launch($id, Request $request): Response
    {
        $boat = $this->find($id);
        $asked = $this->read($request, new Is\Collection(["tide" => [new Is\NotNull(), new Is\Type("integer"), new Is\Range(["min" => 1, "max" => 12])]]));
        if ($asked instanceof Response) { return $asked; }
        if ($boat["launched"] ?? false) { throw new ConflictHttpException("The boat is launched already."); }
        $this->boats[$id]["launched"] = true;
        $this->save();
        return new JsonResponse(["id" => (int) $id, "tide" => $asked["tide"]]);
    }

    public function survey($id): Response { return new JsonResponse(["frames" => intdiv(100, $this->find($id)["id"] - 3)]); }

    public function logbook(Request $request): Response
    {
        if ($request->headers->get("Authorization") !== "Bearer made-up-token") { throw new UnauthorizedHttpException("Bearer", "Not authenticated."); }
        return new JsonResponse(["entries" => []]);
    }
}

$kernel = new Shed("prod", false);
$request = Request::createFromGlobals();
$response = $kernel->handle($request);
$response->send();
$kernel->terminate($request, $response);
