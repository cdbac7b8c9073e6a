//! What a probe plans is in the situation that it is meant for.

#![allow(clippy::unwrap_used, clippy::panic, reason = "a test that cannot go on has failed")]

use std::collections::BTreeMap;

use faithful_clerk_core::probe::Plan;
use faithful_clerk_core::{Contract, Situation};
use proptest::prelude::*;

const PHRASES: [&str; 18] = [
    "text",
    "text from 3 to 5",
    "text, at most 200",
    "text matching ^[A-Z]{2}[0-9]{4}$",
    "number from 2 to 60",
    "number at most 0.5",
    "integer from 1 to 28",
    "integer",
    "boolean",
    "object",
    "uri",
    "date",
    "date-time",
    "language tag",
    "one of a, b",
    "exactly 4",
    "list of integer, at least 1",
    "date or null",
];

fn contract(fields: &[(usize, bool)], parameter: usize) -> Contract {
    let mut text = String::from(
        "contract = 1\nservers = [\"https://harbour.example/v1\"]\n[error]\nmedia = \"application/problem+json\"\n\
         [fault.refused]\nstatus = 422\ntitle = \"No\"\nanswers = [\"fields-invalid\", \"parameters-invalid\"]\n\
         [fault.missing]\nstatus = 404\ntitle = \"Not Found\"\nanswers = [\"resource-missing\"]\n\
         [everywhere]\nfaults = [\"refused\", \"missing\"]\n\
         [endpoint.\"POST /things/{id}\"]\nsuccess = [200]\nneeds = \"credentials\"\naccepts = [\"application/json\"]\n\
         largest-body = 500\n[endpoint.\"POST /things/{id}\".body-fields]\n",
    );
    for (number, (phrase, optional)) in fields.iter().enumerate() {
        let optional = if *optional { "optional " } else { "" };
        text.push_str(&format!("m{number} = '{optional}{}'\n", PHRASES[phrase % PHRASES.len()]));
    }
    let phrase = PHRASES[parameter % PHRASES.len()];
    text.push_str(&format!(
        "[endpoint.\"GET /things\"]\nsuccess = [200]\nneeds = \"nothing\"\n\
         [endpoint.\"GET /things\".parameters.query]\nq = '{phrase}'\n"
    ));
    let reading = Contract::read(&text);
    reading.contract.unwrap_or_else(|| panic!("{:?}\n{text}", reading.mistakes))
}

proptest! {
    #[test]
    fn every_request_is_what_it_is_planned_as(
        fields in prop::collection::vec((any::<usize>(), any::<bool>()), 1..6),
        parameter in any::<usize>(),
    ) {
        let contract = contract(&fields, parameter);
        let plan = Plan::of(&contract, &BTreeMap::new());
        for planned in &plan.requests {
            prop_assert!(planned.is_as_planned(&contract), "{planned:?}");
        }
        // Nothing had to be left out: what is planned is right in the first place.
        prop_assert_eq!(&plan.left_out, &Vec::<String>::new());
        let has = |situation| plan.requests.iter().any(|planned| planned.situation == Some(situation));
        for situation in [
            Situation::BodyMalformed,
            Situation::FieldsInvalid,
            Situation::MediaUnsupported,
            Situation::CredentialsMissing,
            Situation::CredentialsRejected,
            Situation::MethodNotOffered,
            Situation::RouteUnknown,
            Situation::ResourceMissing,
            Situation::TooLarge,
        ] {
            prop_assert!(has(situation), "{situation:?}");
        }
    }
}
