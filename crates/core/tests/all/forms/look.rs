//! Reads recordings, and says in a line for each exchange what was read.

use std::io::Read;
use std::num::NonZero;

use faithful_clerk_model::address::absolute;
use faithful_clerk_model::exchange::Exchange;
use faithful_clerk_model::exchange::{BodyContent, RequestBody, ResponseBody};
use faithful_clerk_recording::{ReadOptions, Source, Traversal, Unreadable, Visitor};

/// A source that gives at most so many bytes at a time.
pub(crate) struct Drops<'b>(pub &'b [u8], pub usize);

impl Read for Drops<'_> {
    fn read(&mut self, into: &mut [u8]) -> std::io::Result<usize> {
        let length = self.1.min(into.len()).min(self.0.len());
        let (now, later) = self.0.split_at(length);
        into[..length].copy_from_slice(now);
        self.0 = later;
        Ok(length)
    }
}

/// What was read of a recording.
#[derive(Debug, Default, PartialEq, Eq)]
pub(crate) struct Seen {
    /// Each exchange in a line, by number.
    pub lines: Vec<(u64, String)>,
    pub unreadable: Vec<Unreadable>,
}

impl Visitor for Seen {
    fn exchange(&mut self, exchange: &Exchange<'_>) {
        self.lines.push((exchange.address.number, line(exchange)));
    }

    fn on_unreadable(&mut self, unreadable: Unreadable) {
        self.unreadable.push(unreadable);
    }
}

fn text(content: &BodyContent<'_>) -> String {
    match content.decode() {
        Ok(bytes) => String::from_utf8_lossy(&bytes).into_owned(),
        Err(reason) => format!("({reason})"),
    }
}

fn line(exchange: &Exchange<'_>) -> String {
    let request = &exchange.request;
    let asked = match &request.body {
        RequestBody::Present(content) => text(content),
        RequestBody::Absent => String::new(),
        RequestBody::Blank => "(blank)".to_owned(),
        RequestBody::NotRecorded => "(not recorded)".to_owned(),
    };
    let told = match &exchange.response {
        None => "(no response)".to_owned(),
        Some(response) => {
            let body = match &response.body {
                ResponseBody::Present(content) => text(content),
                ResponseBody::Empty => String::new(),
                ResponseBody::Truncated => "(cut)".to_owned(),
                ResponseBody::NotRecorded => "(not kept)".to_owned(),
            };
            format!("{} [{body}]", response.status)
        }
    };
    let number = exchange.address.number;
    format!("{number} {} {} [{asked}] {told}", request.method, absolute(&request.url))
}

/// Reads a recording on so many threads.
pub(crate) fn read(source: Source<'_>, opening: ReadOptions, threads: usize) -> Seen {
    let traversal = Traversal { threads: NonZero::new(threads).unwrap(), options: opening };
    let mut all = Seen::default();
    for seen in traversal.visit_parallel(source, 0, Seen::default) {
        all.lines.extend(seen.lines);
        all.unreadable.extend(seen.unreadable);
    }
    all.lines.sort();
    all.unreadable.sort();
    all
}

/// Reads bytes, given so many at a time.
pub(crate) fn seen(bytes: &[u8], step: usize, threads: usize) -> Seen {
    read(Source::of(Drops(bytes, step)), ReadOptions::default(), threads)
}

pub(crate) fn lines(seen: &Seen) -> Vec<String> {
    seen.lines.iter().map(|(_, line)| line.clone()).collect()
}
