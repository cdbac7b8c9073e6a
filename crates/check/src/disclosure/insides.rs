//! Paths, classes, environments, versions: what the service is made of.

use super::pattern::{DisclosurePattern, Needs};
use faithful_clerk_model::finding::DisclosureKind;

const fn path(regex: &'static str, auth: Needs) -> DisclosurePattern {
    DisclosurePattern {
        kind: DisclosureKind::FilePath,
        what: "a path on the server",
        regex,
        literals: auth,
    }
}

const fn code(regex: &'static str, auth: Needs) -> DisclosurePattern {
    DisclosurePattern {
        kind: DisclosureKind::CodeName,
        what: "a name from the service's code",
        regex,
        literals: auth,
    }
}

const fn runtime(regex: &'static str, auth: Needs) -> DisclosurePattern {
    DisclosurePattern {
        kind: DisclosureKind::CodeName,
        what: "the words of a runtime",
        regex,
        literals: auth,
    }
}

const fn environment(regex: &'static str, auth: Needs) -> DisclosurePattern {
    DisclosurePattern {
        kind: DisclosureKind::Environment,
        what: "an environment setting",
        regex,
        literals: auth,
    }
}

pub(super) const PATTERNS: [DisclosurePattern; 38] = [
    // A file of a kind that only a server has, below one of the system's own folders. Web paths such as
    // `/home/news` and `/v1/berths` have none.
    path(
        r#"(?:^|[\s"'(=:,\[<>;])/(?:home|Users|root|etc|var|usr|opt|srv|tmp|mnt|app|build|workspace|data|private)/(?:[\w.@+-]+/)*[\w.@+-]+\.(?:pyc?|rb|[cm]?jsx?|tsx?|java|kt|go|rs|php|cs|vb|cc|cpp|pl|pm|sh|sql|ya?ml|toml|ini|conf|cfg|env|log|db|sqlite3?|jar|war|dll|so|exe|class|erb|jsp|aspx|cshtml|twig|key|pem|crt|properties)\b"#,
        &[
            "/home/",
            "/Users/",
            "/root/",
            "/etc/",
            "/var/",
            "/usr/",
            "/opt/",
            "/srv/",
            "/tmp/",
            "/mnt/",
            "/app/",
            "/build/",
            "/workspace/",
            "/data/",
            "/private/",
        ],
    ),
    path(r"/etc/(?:passwd|shadow|hosts|nginx|apache2|ssl|mysql|postgresql)\b", &["/etc/"]),
    path(r"/var/(?:www|lib|log|run|task|spool)/[\w.@+/-]+", &["/var/"]),
    path(r"/usr/(?:local|lib|lib64|share|src|bin|sbin)/[\w.@+/-]+", &["/usr/"]),
    path(
        r"/node_modules/[\w.@+/-]+|/site-packages/[\w.@+/-]+|/vendor/bundle/[\w.@+/-]+",
        &["/node_modules/", "/site-packages/", "/vendor/bundle/"],
    ),
    path(r"\b[A-Za-z]:\\{1,2}(?:[\w .$-]+\\{1,2})+[\w.$-]+", &[":\\"]),
    path(r"\\\\[\w.-]+\\[\w.$-]+\\[\w.$\\-]+", &["\\\\"]),
    path(r"\bfile:///(?:[A-Za-z]:/)?[\w.@+/-]+", &["file:///"]),
    code(
        r"\b(?:[a-z][a-z0-9_]*\.){2,}(?:[A-Z]\w*\$)?[A-Z]\w*(?:Exception|Error|Controller|Service|Repository|Handler|Impl|Dao|Entity|Mapper|Request|Dto|DTO)\b",
        &[
            "Exception",
            "Error",
            "Controller",
            "Service",
            "Repository",
            "Handler",
            "Impl",
            "Dao",
            "Entity",
            "Mapper",
            "Request",
            "Dto",
            "DTO",
        ],
    ),
    code(
        r"\b(?:java|javax|jakarta|kotlin|scala|sun|jdk)\.(?:[a-z]\w*\.)+[A-Z]\w*",
        &["java.", "javax.", "jakarta.", "kotlin.", "scala.", "sun.", "jdk."],
    ),
    code(
        r"\b(?:com|org|net|io)\.(?:[a-z][a-z0-9_]*\.)+[A-Z][a-z]\w*",
        &["com.", "org.", "net.", "io."],
    ),
    code(r"\b(?:System|Microsoft)\.(?:[A-Z]\w*\.)*[A-Z]\w*Exception\b", &["System.", "Microsoft."]),
    code(r"\b[A-Z][a-z]\w*(?:[A-Z][a-z]\w*)+Exception\b", &["Exception"]),
    code(
        r"\bNullPointerException\b|\bIllegalArgumentException\b|\bClassCastException\b",
        &["NullPointerException", "IllegalArgumentException", "ClassCastException"],
    ),
    code(r"\b[A-Z]\w+(?:\\{1,2}[A-Z]\w+){2,}\b", &["\\"]),
    code(
        r"\b[A-Z]\w+(?:::[A-Z]\w+)*::(?:\w*Error|\w*Exception|RecordNotFound|RecordInvalid|ParameterMissing|RoutingError)\b",
        &["::"],
    ),
    code(r"\b[a-z_][a-z0-9_]*(?:::[a-z_][a-z0-9_]*)+::[A-Z]\w+\b", &["::"]),
    code(
        r"#<[A-Z]\w*(?:::\w+)*(?::0x[0-9a-f]+| id: )|<[\w.]+ object at 0x[0-9a-f]+>",
        &["#<", " object at 0x"],
    ),
    runtime(
        r"\b(?:TypeError|ReferenceError|SyntaxError|RangeError|KeyError|IndexError|AttributeError|ValueError|NameError|ZeroDivisionError|RuntimeError|AssertionError|NoMethodError|ArgumentError|UnicodeDecodeError|RecursionError|LookupError|OSError|FileNotFoundError|ModuleNotFoundError): ",
        &["Error: "],
    ),
    runtime(
        r"Cannot read propert(?:y|ies) (?:'\w+' )?of (?:undefined|null)|undefined is not (?:a function|an object)|\b\w+(?:\.\w+)+ is not a function",
        &["Cannot read propert", "undefined is not ", " is not a function"],
    ),
    runtime(
        r"'NoneType' object (?:has no attribute|is not)|object has no attribute '\w+'|got an unexpected keyword argument '",
        &[
            "'NoneType' object ",
            "object has no attribute '",
            "got an unexpected keyword argument '",
        ],
    ),
    runtime(
        r"undefined method (?:`|'|‘|&#39;|&#x27;)\w+[?!]?(?:'|’|&#39;|&#x27;) for ",
        &["undefined method "],
    ),
    runtime(
        r"Object reference not set to an instance of an object|Value cannot be null\. \(Parameter '|Sequence contains no elements",
        &["Object reference not set", "Value cannot be null", "Sequence contains no elements"],
    ),
    runtime(
        r"nil pointer dereference|invalid memory address|index out of range \[\d+\] with length \d+|interface conversion: ",
        &[
            "nil pointer dereference",
            "invalid memory address",
            "index out of range [",
            "interface conversion: ",
        ],
    ),
    runtime(
        r"Call to (?:a member function|undefined (?:method|function)) [\w\\:]+\(|Undefined (?:index|variable|array key|property): ?",
        &["Call to a member function", "Call to undefined ", "Undefined "],
    ),
    // Go: decoding into a struct, parsing numbers and times, the names of a validator's struct fields.
    runtime(
        r"json: cannot unmarshal \w+ into Go |\bstrconv\.\w+: parsing |\bKey: '\w+(?:[.\[\]\w]+)?' Error:Field validation for '|\bparsing time \\?\x22[^\x22\n]*\x22 as \\?\x22",
        &["json: cannot unmarshal ", "strconv.", "Error:Field validation for '", "parsing time "],
    ),
    // Rust: the types that serde and parsers had in mind.
    runtime(
        r"\binvalid (?:type|value|length)\b[^\n]{1,200}, expected (?:a |an )?(?:struct|tuple struct|unit struct|newtype struct|enum|tuple variant|struct variant|[iuf](?:8|16|32|64|128|size))\b|\bto a `[iuf](?:8|16|32|64|128|size)`",
        &[", expected ", "to a `"],
    ),
    // PHP: arguments by position and variable.
    runtime(
        r"Argument #\d+ \(\$\w+\) must be of type |must be of the type \w+, \w+ given|Trying to access array offset on value of type |\b[\w\\]+::\w+\(\): Argument #\d+",
        &["Argument #", "must be of the type ", "Trying to access array offset"],
    ),
    // .NET: converters and casts by type.
    runtime(
        r"could not be converted to [\w.`\[\],]+\. Path: \$|Unable to cast object of type '|Input string was not in a correct format",
        &[
            "could not be converted to ",
            "Unable to cast object of type '",
            "Input string was not in a correct format",
        ],
    ),
    // Ruby.
    runtime(
        r"no implicit conversion of \w+ into |wrong number of arguments \(given \d+, expected |undefined local variable or method |uninitialized constant [A-Z]",
        &[
            "no implicit conversion of ",
            "wrong number of arguments (given ",
            "undefined local variable or method ",
            "uninitialized constant ",
        ],
    ),
    // Elixir.
    runtime(
        r"\*\* \([A-Z]\w*(?:\.\w+)*Error\)|no function clause matching in |no match of right hand side value|%[A-Z]\w*(?:\.[A-Z]\w*)+\{|no route found for [A-Z]+ /\S* \([A-Z]",
        &[
            "** (",
            "no function clause matching in ",
            "no match of right hand side",
            "%",
            "no route found for ",
        ],
    ),
    // Java: a binder's classes.
    runtime(
        r"Cannot (?:deserialize (?:value|instance)|construct instance) of (?:type )?`[\w.$<>]+`|\(class [\w.$]+\), not marked as ignorable",
        &["Cannot deserialize ", "Cannot construct instance of ", "not marked as ignorable"],
    ),
    runtime(
        r"called `(?:Option|Result)::\w+\(\)` on |Cannot invoke \x22[\w.()]+\x22 because ",
        &["called `", "Cannot invoke \""],
    ),
    environment(
        r"\b(?:PATH=/[\w/:.-]+|HOME=/\w+|PWD=/\w+|LD_LIBRARY_PATH|PYTHONPATH|GOPATH|JAVA_HOME|DJANGO_SETTINGS_MODULE|SECRET_KEY_BASE|AWS_SECRET_ACCESS_KEY|AWS_ACCESS_KEY_ID|DATABASE_URL|DB_PASSWORD|DB_HOST|KUBERNETES_SERVICE_HOST|SERVER_SOFTWARE|DOCUMENT_ROOT|GATEWAY_INTERFACE)\b",
        &[
            "PATH=/",
            "HOME=/",
            "PWD=/",
            "LD_LIBRARY_PATH",
            "PYTHONPATH",
            "GOPATH",
            "JAVA_HOME",
            "DJANGO_SETTINGS_MODULE",
            "SECRET_KEY_BASE",
            "AWS_SECRET_ACCESS_KEY",
            "AWS_ACCESS_KEY_ID",
            "DATABASE_URL",
            "DB_PASSWORD",
            "DB_HOST",
            "KUBERNETES_SERVICE_HOST",
            "SERVER_SOFTWARE",
            "DOCUMENT_ROOT",
            "GATEWAY_INTERFACE",
        ],
    ),
    environment(
        r"\b(?:NODE_ENV|RAILS_ENV|APP_ENV|FLASK_ENV|ASPNETCORE_ENVIRONMENT|SPRING_PROFILES_ACTIVE)\b\\?[\x22']? ?[=:]",
        &[
            "NODE_ENV",
            "RAILS_ENV",
            "APP_ENV",
            "FLASK_ENV",
            "ASPNETCORE_ENVIRONMENT",
            "SPRING_PROFILES_ACTIVE",
        ],
    ),
    environment(
        r"\b(?:PATH|HOME|PWD) = '/|\b(?:REMOTE_ADDR|SERVER_PROTOCOL|QUERY_STRING|HTTP_USER_AGENT)(?:</t[dh]>\s*<td[^>]*>|\x22?(?: = | => |: ))",
        &[
            "PATH = '/",
            "HOME = '/",
            "PWD = '/",
            "REMOTE_ADDR",
            "SERVER_PROTOCOL",
            "QUERY_STRING",
            "HTTP_USER_AGENT",
        ],
    ),
    environment(
        r"\bwsgi\.(?:errors|input|version|url_scheme)\b|\brack\.(?:input|errors|session)\b",
        &["wsgi.", "rack."],
    ),
    DisclosurePattern {
        kind: DisclosureKind::Version,
        what: "a version",
        regex: r"\b(?:Apache(?: Tomcat)?|Apache-Coyote|nginx|openresty|Tomcat|Jetty|Microsoft-IIS|OpenSSL|PHP|CPython|Python|Werkzeug|gunicorn|uvicorn|Puma|Phusion Passenger|Kestrel|Caddy|LiteSpeed|WildFly|WebLogic|GlassFish|Undertow|Node\.js|Ruby|Rails|Django|Flask|Spring Boot|Express|ASP\.NET(?: Version:)?|Microsoft \.NET Framework(?: Version:)?|Laravel|Symfony)[/ :(v]{1,3}\d+(?:\.\d+)+",
        literals: &[
            "Apache",
            "nginx",
            "openresty",
            "Tomcat",
            "Jetty",
            "Microsoft-IIS",
            "OpenSSL",
            "PHP",
            "Python",
            "Werkzeug",
            "gunicorn",
            "uvicorn",
            "Puma",
            "Passenger",
            "Kestrel",
            "Caddy",
            "LiteSpeed",
            "WildFly",
            "WebLogic",
            "GlassFish",
            "Undertow",
            "Node.js",
            "Ruby",
            "Rails",
            "Django",
            "Flask",
            "Spring Boot",
            "Express",
            "ASP.NET",
            ".NET Framework",
            "Laravel",
            "Symfony",
        ],
    },
];
