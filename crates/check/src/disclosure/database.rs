//! The words of databases and of their drivers.

use super::pattern::{DisclosurePattern, Needs};
use faithful_clerk_model::finding::DisclosureKind;

const fn words(regex: &'static str, auth: Needs) -> DisclosurePattern {
    DisclosurePattern {
        kind: DisclosureKind::Database,
        what: "database error text",
        regex,
        literals: auth,
    }
}

pub(super) const PATTERNS: [DisclosurePattern; 30] = [
    words(r"\bSQLSTATE\b[ \[:=(]*[0-9A-Z]{5}", &["SQLSTATE"]),
    words(r"\b(?:ORA|PLS|TNS)-\d{5}\b", &["ORA-", "PLS-", "TNS-"]),
    words(r"\bSQLCODE[ =:]+-?\d+", &["SQLCODE"]),
    words(r"duplicate key value violates unique constraint", &["duplicate key value"]),
    words(r"violates (?:foreign key|not-null|check|unique|exclusion) constraint", &["violates "]),
    words(r"null value in column (?:\\?.)?\w+", &["null value in column "]),
    words(
        r#"(?:relation|column|table|function) \\?(?:"|&quot;)[^"\n]{1,80}(?:"|&quot;) (?:of relation|does not exist|already exists|cannot be)"#,
        &["relation ", "column ", "table ", "function "],
    ),
    words(r"syntax error at or near", &["syntax error at or near"]),
    words(r"You have an error in your SQL syntax", &["error in your SQL syntax"]),
    words(r"Duplicate entry '[^'\n]*' for key", &["Duplicate entry '"]),
    words(r"Unknown column '[^'\n]+' in '", &["Unknown column '"]),
    words(r"Table '[\w.]+' doesn't exist", &["doesn't exist"]),
    words(r"Cannot (?:add or update|delete or update) a (?:child|parent) row", &["or update a "]),
    words(
        r"(?:Data too long|Out of range value|Incorrect \w+ value: '[^'\n]*') for column",
        &[" for column"],
    ),
    words(r"(?:UNIQUE|NOT NULL|CHECK|FOREIGN KEY) constraint failed", &[" constraint failed"]),
    words(r"\bno such (?:table|column): \w+", &["no such table: ", "no such column: "]),
    words(r"\bSQLITE_[A-Z]+\b", &["SQLITE_"]),
    words(
        r"Cannot insert (?:duplicate key row in object|the value NULL into column)",
        &["Cannot insert "],
    ),
    words(r"Violation of (?:PRIMARY|UNIQUE) KEY constraint", &[" KEY constraint"]),
    words(r"Invalid (?:object|column) name '", &["Invalid object name '", "Invalid column name '"]),
    words(
        r"The (?:INSERT|UPDATE|DELETE|MERGE) statement conflicted with",
        &["statement conflicted with"],
    ),
    words(r"Incorrect syntax near (?:the keyword )?'", &["Incorrect syntax near "]),
    words(r"\bE11000 duplicate key", &["E11000"]),
    words(
        r"\bMongo(?:Server|Network|BulkWrite)?Error\b|\bBSONObj size\b",
        &["Mongo", "BSONObj size"],
    ),
    words(r"\bWRONGTYPE Operation against a key\b", &["WRONGTYPE "]),
    words(
        r"\b(?:deadlock detected|could not serialize access|Deadlock found when trying to get lock|Lock wait timeout exceeded)",
        &["deadlock detected", "could not serialize access", "Deadlock found", "Lock wait timeout"],
    ),
    words(
        r"\b(?:org\.postgresql|com\.mysql|oracle\.jdbc|java\.sql\.SQL|org\.hibernate|javax\.persistence|jakarta\.persistence|org\.springframework\.(?:dao|jdbc))\b",
        &[
            "org.postgresql",
            "com.mysql",
            "oracle.jdbc",
            "java.sql.SQL",
            "org.hibernate",
            "javax.persistence",
            "jakarta.persistence",
            "org.springframework.",
        ],
    ),
    words(
        r"\b(?:psycopg2?|sqlalchemy|pymysql|asyncpg|django\.db|sqlite3)\.(?:\w+\.)*\w*(?:Error|exc|Violation|Undefined\w+)\b",
        &["psycopg", "sqlalchemy", "pymysql", "asyncpg", "django.db", "sqlite3"],
    ),
    words(
        r"\b(?:PDOException|mysqli_\w+\(|pg_query\(|ActiveRecord::\w+|PG::\w+|Mysql2::Error|QueryFailedError|SequelizeDatabaseError|SequelizeUniqueConstraintError|PrismaClient\w*Error|Npgsql\.\w*Exception|SqlException|DbUpdateException|pq: |sql: no rows in result set)",
        &[
            "PDOException",
            "mysqli_",
            "pg_query(",
            "ActiveRecord::",
            "PG::",
            "Mysql2::Error",
            "QueryFailedError",
            "SequelizeDatabaseError",
            "SequelizeUniqueConstraintError",
            "PrismaClient",
            "Npgsql.",
            "SqlException",
            "DbUpdateException",
            "pq: ",
            "sql: no rows",
        ],
    ),
    words(
        r"\b(?:SELECT [\w.,*`\x22\[\]() ]{1,200} FROM |INSERT INTO [\w.`\x22\[\]]+ ?\(|UPDATE [\w.`\x22\[\]]+ SET |DELETE FROM [\w.`\x22\[\]]+ WHERE )",
        &["SELECT ", "INSERT INTO ", "UPDATE ", "DELETE FROM "],
    ),
];
