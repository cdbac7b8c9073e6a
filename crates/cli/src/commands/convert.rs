//! `fclerk convert`: recordings in another form.

use faithful_clerk_recording::{Format, RecordingWriter, UnreadableParts};
use faithful_clerk_report::text::counted;

use crate::exit::{Completion, Failure};
use crate::flags::ConvertArgs;
use crate::output::{OutputTarget, complain};
use crate::recordings::RecordingInputs;

pub(crate) fn run(call: &ConvertArgs) -> Result<Completion, Failure> {
    let mut recordings = RecordingInputs::of(&call.recordings, &call.opened)?;
    let target = OutputTarget::open(call.output.as_deref())?;
    let mut writer = RecordingWriter::new(call.to, target);
    let mut losses = UnreadableParts::default();
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
        complain(&format!("left out, because {} can't hold it: {what} ({count})", name(call.to)));
    }
    Ok(recordings.outcome(&losses, Completion::Kept, false))
}

fn name(format: Format) -> &'static str {
    match format {
        Format::Har => "HAR",
        Format::JsonLines => "JSON Lines of HAR entries",
        Format::Http => "HTTP messages",
        Format::Warc => "WARC",
    }
}
