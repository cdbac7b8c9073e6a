//! Binds the names that cases keep to the values that a service gave.

use std::collections::BTreeMap;

use faithful_clerk_shape::TypeName;
use serde_json::Value;

use crate::model::{Case, ErrorContract};
use crate::router::Router;
use faithful_clerk_model::percent;

impl ErrorContract {
    /// Gives values to names that cases kept, so that cases which use them fit the requests that were sent with them.
    pub fn bind(&mut self, kept: &BTreeMap<String, String>) {
        for case in &mut self.cases {
            for (name, value) in kept {
                if case.uses.contains(name) {
                    case.bind(name, value);
                }
            }
        }
    }
}

impl Case {
    /// The texts that its conditions give as they are: anyone who has the contract knows them. Of credentials, those behind
    /// the scheme, too.
    pub(crate) fn literals(&self) -> Vec<String> {
        let conditions = [&self.values, &self.query, &self.headers, &self.body];
        let mut found = Vec::new();
        for condition in conditions.into_iter().flatten() {
            let values = match &condition.rule.constrained.name {
                TypeName::Exactly(value) => std::slice::from_ref(value),
                TypeName::OneOf(values) => values.as_slice(),
                _ => continue,
            };
            for text in values.iter().filter_map(Value::as_str) {
                found.push(text.to_owned());
                found.extend(text.split_once(' ').map(|(_, behind)| behind.trim().to_owned()));
            }
        }
        found
    }

    fn bind(&mut self, name: &str, value: &str) {
        let hole = format!("{{{name}}}");
        let template = self.template.replace(&hole, &percent::encode_segment(value));
        if self.path.is_some() {
            // A value that is no segment of a path can't have been sent as one.
            let Ok(segments) = Router::segments(&template) else { return };
            self.path = Some(segments);
        }
        self.template = template;
        self.values.retain(|condition| condition.name != name);
        let conditions = [&mut self.query, &mut self.headers, &mut self.body];
        for condition in conditions.into_iter().flatten() {
            if let TypeName::Exactly(Value::String(text)) = &mut condition.rule.constrained.name
                && *text == hole
            {
                value.clone_into(text);
            }
        }
        self.uses.retain(|known| known != name);
    }
}
