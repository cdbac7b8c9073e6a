//! The words of databases and of their drivers.

use super::patterns::Pattern;
use super::sort::Inside;

const fn words(regex: &'static str) -> Pattern {
    Pattern { sort: Inside::Database, what: "the database's own words", regex }
}

pub(super) const PATTERNS: [Pattern; 30] = [
    words(r"\bSQLSTATE\b[ \[:=(]*[0-9A-Z]{5}"),
    words(r"\b(?:ORA|PLS|TNS)-\d{5}\b"),
    words(r"\bSQLCODE[ =:]+-?\d+"),
    words(r"duplicate key value violates unique constraint"),
    words(r"violates (?:foreign key|not-null|check|unique|exclusion) constraint"),
    words(r"null value in column (?:\\?.)?\w+"),
    words(
        r#"(?:relation|column|table|function) \\?(?:"|&quot;)[^"\n]{1,80}(?:"|&quot;) (?:of relation|does not exist|already exists|cannot be)"#,
    ),
    words(r"syntax error at or near"),
    words(r"You have an error in your SQL syntax"),
    words(r"Duplicate entry '[^'\n]*' for key"),
    words(r"Unknown column '[^'\n]+' in '"),
    words(r"Table '[\w.]+' doesn't exist"),
    words(r"Cannot (?:add or update|delete or update) a (?:child|parent) row"),
    words(r"(?:Data too long|Out of range value|Incorrect \w+ value: '[^'\n]*') for column"),
    words(r"(?:UNIQUE|NOT NULL|CHECK|FOREIGN KEY) constraint failed"),
    words(r"\bno such (?:table|column): \w+"),
    words(r"\bSQLITE_[A-Z]+\b"),
    words(r"Cannot insert (?:duplicate key row in object|the value NULL into column)"),
    words(r"Violation of (?:PRIMARY|UNIQUE) KEY constraint"),
    words(r"Invalid (?:object|column) name '"),
    words(r"The (?:INSERT|UPDATE|DELETE|MERGE) statement conflicted with"),
    words(r"Incorrect syntax near (?:the keyword )?'"),
    words(r"\bE11000 duplicate key"),
    words(r"\bMongo(?:Server|Network|BulkWrite)?Error\b|\bBSONObj size\b"),
    words(r"\bWRONGTYPE Operation against a key\b"),
    words(
        r"\b(?:deadlock detected|could not serialize access|Deadlock found when trying to get lock|Lock wait timeout exceeded)",
    ),
    words(
        r"\b(?:org\.postgresql|com\.mysql|oracle\.jdbc|java\.sql\.SQL|org\.hibernate|javax\.persistence|jakarta\.persistence|org\.springframework\.(?:dao|jdbc))\b",
    ),
    words(
        r"\b(?:psycopg2?|sqlalchemy|pymysql|asyncpg|django\.db|sqlite3)\.(?:\w+\.)*\w*(?:Error|exc|Violation|Undefined\w+)\b",
    ),
    words(
        r"\b(?:PDOException|mysqli_\w+\(|pg_query\(|ActiveRecord::\w+|PG::\w+|Mysql2::Error|QueryFailedError|SequelizeDatabaseError|SequelizeUniqueConstraintError|PrismaClient\w*Error|Npgsql\.\w*Exception|SqlException|DbUpdateException|pq: |sql: no rows in result set)",
    ),
    words(
        r"\b(?:SELECT [\w.,*`\x22\[\]() ]{1,200} FROM |INSERT INTO [\w.`\x22\[\]]+ ?\(|UPDATE [\w.`\x22\[\]]+ SET |DELETE FROM [\w.`\x22\[\]]+ WHERE )",
    ),
];
