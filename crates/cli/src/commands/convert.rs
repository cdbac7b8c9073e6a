//! `fclerk convert`: recordings in another form.

use faithful_clerk_recording::{Format, RecordingWriter, UnreadableParts};
use faithful_clerk_report::text::counted;

use crate::exit::{Completion, Failure};
use crate::flags::ConvertArgs;
use crate::output::{OutputTarget, Readers, print_error};
use crate::recordings::RecordingInputs;

pub(crate) fn run(args: &ConvertArgs) -> Result<Completion, Failure> {
    let mut recordings = RecordingInputs::of(&args.recordings, &args.opened)?;
    let target = OutputTarget::open(args.output.as_deref(), Readers::Owner)?;
    let mut writer = RecordingWriter::new(args.to, target);
    let mut unreadable = UnreadableParts::default();
    let mut failed = None;
    recordings.each(|source, recording| {
        if failed.is_none() {
            match writer.copy(source, recording, &args.opened.opening()) {
                Ok(lost) => unreadable.add(lost),
                Err(error) => failed = Some(error),
            }
        }
    });
    if let Some(error) = failed {
        return Err(Failure::Output(error));
    }
    let (target, written) = writer.finish().map_err(Failure::Output)?;
    target.close()?;
    print_error(&format!(
        "{} written as {}",
        counted(written.exchanges, "exchange"),
        name(args.to)
    ));
    for (what, count) in &written.left_out {
        print_error(&format!(
            "left out, because {} can't hold it: {what} ({count})",
            name(args.to)
        ));
    }
    Ok(recordings.outcome(&unreadable, Completion::Kept, false))
}

fn name(format: Format) -> &'static str {
    match format {
        Format::Har => "HAR",
        Format::JsonLines => "JSON Lines of HAR entries",
        Format::Http => "HTTP messages",
        Format::Warc => "WARC",
    }
}
