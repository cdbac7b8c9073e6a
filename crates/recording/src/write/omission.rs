//! Counts what a form can't hold.

use std::collections::BTreeMap;

/// Counts one more of what a form can't hold.
pub(super) fn leave_out(left_out: &mut BTreeMap<&'static str, u64>, what: &'static str) {
    *left_out.entry(what).or_default() += 1;
}
