//! `[endpoint."METHOD /path"]`.

use toml::de::DeTable;

use super::mistake::Mistake;
use super::model::{Endpoint, EndpointId, Needs};
use super::read::Making;
use super::router::Router;
use super::table::{Node, Text};
use crate::headers::is_token;
use crate::shape::Shape;

const KEYS: [&str; 5] = ["success", "faults", "needs", "accepts", "body-fields"];

/// The methods whose names in small letters are a slip and not a method of somebody's own.
const KNOWN_METHODS: [&str; 7] = ["GET", "HEAD", "POST", "PUT", "PATCH", "DELETE", "OPTIONS"];

impl<'t> Making<'t> {
    pub(super) fn endpoint(&mut self, name: &Text, node: &Node<'t>) {
        let owner = format!("[endpoint.\"{}\"]", name.text);
        let place = self.place(name);
        let Some(table) = self.desk.table(node, &owner) else { return };
        self.desk.keys(table, &owner, &KEYS);
        let mut faults =
            table.get("faults").map(|node| self.faults_named(node)).unwrap_or_default();
        for fault in &self.contract.everywhere {
            if !faults.contains(fault) {
                faults.push(*fault);
            }
        }
        let success = table.get("success").map(|node| self.statuses(node)).unwrap_or_default();
        let needs = table.get("needs").map_or(Needs::NotSaid, |node| self.needs(node));
        let accepts = table.get("accepts").map(|node| {
            let items = self.desk.items(node, "`accepts`");
            items.iter().filter_map(|item| self.media(item, "an accepted media type")).collect()
        });
        let body = self.body(table, &name.text);
        let Some((method, path)) = place else { return };
        self.contract.endpoints.push(Endpoint {
            method,
            path,
            success,
            faults,
            needs,
            accepts: accepts.unwrap_or_default(),
            body,
        });
    }

    /// Splits the name into method and path, and puts the endpoint on the route.
    fn place(&mut self, name: &Text) -> Option<(String, String)> {
        let shape = "write it as in [endpoint.\"GET /berths/{id}\"]";
        let Some((method, path)) = name.text.split_once(' ') else {
            let mistake = Mistake::new(name.span.clone(), "an endpoint is a method and a path");
            self.desk.say(mistake.help(shape));
            return None;
        };
        if !is_token(method) {
            let span = self.desk.within(name, 0..method.len());
            self.desk.say(Mistake::new(span, format!("`{method}` is no HTTP method")).help(shape));
            return None;
        }
        let capitals = method.to_ascii_uppercase();
        if method != capitals && KNOWN_METHODS.contains(&capitals.as_str()) {
            let span = self.desk.within(name, 0..method.len());
            self.desk.say(
                Mistake::new(span, format!("the method is `{capitals}`, in capitals"))
                    .help("methods are case-sensitive (RFC 9110 section 9.1)"),
            );
            return None;
        }
        let path = path.trim();
        let segments = match Router::segments(path) {
            Ok(segments) => segments,
            Err(reason) => {
                let start = name.text.len() - path.len();
                let span = self.desk.within(name, start..name.text.len());
                self.desk
                    .say(Mistake::new(span, "this is no path template").label(reason).help(shape));
                return None;
            }
        };
        let key = (method.to_owned(), segments.clone());
        if let Some((twin, span)) = self.endpoint_places.get(&key) {
            let message = format!("this is the same endpoint as `{twin}`");
            let help = "the names of parameters make no difference to a path";
            let mistake = Mistake::new(name.span.clone(), message).help(help);
            self.desk.say(mistake.also(span.clone(), "first declared here"));
            return None;
        }
        self.endpoint_places.insert(key, (name.text.clone(), name.span.clone()));
        let id = EndpointId(self.contract.endpoints.len());
        self.contract.router.add(segments, Some(id));
        Some((method.to_owned(), path.to_owned()))
    }

    fn statuses(&mut self, node: &Node<'t>) -> Vec<u16> {
        let items = self.desk.items(node, "`success`");
        items
            .iter()
            .filter_map(|item| self.desk.whole(item, "the status of a success", 200..=399))
            .collect()
    }

    fn needs(&mut self, node: &Node<'t>) -> Needs {
        let Some(text) = self.desk.text(node, "`needs`") else { return Needs::NotSaid };
        match text.text.as_str() {
            "credentials" => Needs::Credentials,
            "nothing" => Needs::Nothing,
            _ => {
                let mistake = Mistake::new(
                    text.span,
                    format!("`{}` is nothing a request can need", text.text),
                );
                self.desk.say(mistake.label("\"credentials\" or \"nothing\" is right here"));
                Needs::NotSaid
            }
        }
    }

    fn body(&mut self, table: &DeTable<'t>, name: &str) -> Option<Shape> {
        let fields = table.get("body-fields")?;
        let fields = self.desk.table(fields, "`body-fields`")?;
        let members = self.members(fields, name, 0, &[]);
        Some(Shape { members, ..Shape::default() })
    }
}
