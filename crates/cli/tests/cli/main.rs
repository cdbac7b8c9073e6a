//! Drives the built program on files in a temporary folder.

#![allow(
    clippy::unwrap_used,
    clippy::expect_used,
    clippy::panic,
    clippy::needless_pass_by_value,
    clippy::print_stdout,
    reason = "a test that cannot go on has failed, and its helpers are for reading"
)]

mod bad_input;
mod browser;
mod check;
mod compare;
mod contract;
mod corpus;
mod coverage;
mod demo;
mod descriptions;
mod docs;
mod draft;
mod dunlin;
mod examples;
mod explain;
mod findings;
mod frameworks;
mod gate;
mod habits;
mod handbook;
mod har;
mod harbour;
mod harness;
mod intended;
mod maps;
mod merged_description;
mod openapi;
mod page;
mod patience;
mod probe;
mod record;
mod record_command;
mod record_crowd;
mod record_proxy;
mod record_tls;
mod record_watch;
mod recordings;
mod reports;
mod script;
mod scrub;
mod scrub_everywhere;
mod scrub_kinds;
mod shards;
mod show;
mod signals;
mod styles;
mod survey;
mod survey_shards;
mod widths;
mod wrong_calls;
