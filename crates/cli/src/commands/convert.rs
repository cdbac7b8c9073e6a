//! `fclerk convert`: recordings in another form.

use faithful_clerk_core::{Format, Losses, Writer};
use faithful_clerk_report::text::counted;

use crate::exit::{Failure, Outcome};
use crate::flags::ConvertCall;
use crate::output::{Target, complain};
use crate::recordings::Recordings;

pub(crate) fn run(call: &ConvertCall) -> Result<Outcome, Failure> {
    let mut recordings = Recordings::of(&call.recordings, &call.opened)?;
    let target = Target::open(call.into.as_deref())?;
    let mut writer = Writer::new(call.to, target);
    let mut losses = Losses::default();
    let mut failed = None;
    recordings.each(|source, recording| {
        if failed.is_none() {
            match writer.copy(source, recording, call.opened.opening()) {
                Ok(lost) => losses.add(lost),
                Err(error) => failed = Some(error),
            }
        }
    });
    if let Some(error) = failed {
        return Err(Failure::Output(error));
    }
    let (target, written) = writer.finish().map_err(Failure::Output)?;
    target.close()?;
    complain(&format!("{} written as {}", counted(written.exchanges, "exchange"), name(call.to)));
    for (what, count) in &written.left_out {
        complain(&format!("left out, as {} can't hold it: {what} ({count})", name(call.to)));
    }
    Ok(recordings.outcome(&losses, Outcome::Kept, false))
}

fn name(format: Format) -> &'static str {
    match format {
        Format::Har => "HAR",
        Format::Lines => "HAR lines",
        Format::Http => "HTTP messages",
        Format::Warc => "WARC",
    }
}
