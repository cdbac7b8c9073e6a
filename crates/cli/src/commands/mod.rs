//! The commands, one file each.

pub(crate) mod check;
pub(crate) mod compare;
pub(crate) mod completions;
pub(crate) mod convert;
pub(crate) mod coverage;
pub(crate) mod demo;
pub(crate) mod draft;
pub(crate) mod explain;
pub(crate) mod handbook;
pub(crate) mod manual;
pub(crate) mod merge;
pub(crate) mod probe;
pub(crate) mod record;
pub(crate) mod scrub;
pub(crate) mod serve;
pub(crate) mod show;
pub(crate) mod survey;
mod tour;
