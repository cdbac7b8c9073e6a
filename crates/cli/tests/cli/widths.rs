//! The outputs for people at 80, 120 and 160 columns, as they are: a change of layout is seen here.

use crate::harness::Project;
use unicode_width::UnicodeWidthStr as _;

#[test]
fn outputs_at_three_widths() {
    let project = Project::new();
    project.run("demo --files-only --output .");
    for (name, call) in [
        ("check", "check before.har"),
        ("check-markdown", "check before.har --format markdown"),
        ("show", "show before.har#22"),
        ("survey", "survey before.har"),
        ("coverage", "coverage before.har"),
        ("compare", "compare before.har after.har"),
        ("explain", "explain validation.complete"),
    ] {
        for width in [80, 120, 160] {
            let mut command = project.command(call);
            let output = command.env("COLUMNS", width.to_string()).output().unwrap();
            let text = String::from_utf8(output.stdout).unwrap();
            let is_for_terminal = !call.contains("--format");
            for line in text.lines().filter(|_| is_for_terminal) {
                // Only a word that is longer than what is left of a line goes beyond it.
                let is_one_word = !line.trim().contains(' ') || line.split_whitespace().count() < 3;
                assert!(line.width() <= width || is_one_word, "{call} at {width}: {line}");
            }
            // Markdown has no width.
            if is_for_terminal || width == 80 {
                insta::assert_snapshot!(format!("{name}-{width}"), text);
            }
        }
    }
}
