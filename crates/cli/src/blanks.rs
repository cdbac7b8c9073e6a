//! What a scrubber blanked, for people.

use faithful_clerk_report::text::counted;
use faithful_clerk_scrub::{BETWEEN, BlankedPlaces, Blanks};

use crate::output::print_error;

/// What could not be looked into, by place and reason, with the first entries.
pub(crate) fn print_blanks(blanks: &Blanks) {
    let all: u64 = blanks.values().map(|places| places.count).sum();
    if all == 0 {
        return;
    }
    print_error(&format!(
        "{} blanked, because no secret could be looked for there",
        counted(all, "place")
    ));
    for ((place, reason), BlankedPlaces { count, first }) in blanks {
        let behind = if place == BETWEEN { "behind " } else { "" };
        let first: Vec<String> = first.iter().map(|number| format!("{behind}#{number}")).collect();
        let more = if first.len() as u64 == *count { "" } else { " …" };
        print_error(&format!("  {count} × {place}, because {reason}: {}{more}", first.join(" ")));
    }
}
