//! Any bytes as lines that a map reads: on one thread as on three, and as in an entry of HAR that says what was recorded.
#![no_main]

use std::num::NonZero;
use std::sync::{Arc, LazyLock};

use faithful_clerk_model::exchange::Exchange;
use faithful_clerk_recording::{
    Format, LineMap, ReadOptions, RecordingWriter, Source, Traversal, Unreadable, Visitor,
};
use libfuzzer_sys::fuzz_target;

static MAPS: LazyLock<[Arc<LineMap>; 4]> = LazyLock::new(|| {
    [
        include_str!("../../examples/maps/gateway.toml"),
        include_str!("../../examples/maps/service-log.toml"),
        include_str!("../../examples/maps/spans.toml"),
        include_str!("../../examples/maps/table.toml"),
    ]
    .map(|map| Arc::new(LineMap::parse(map).expect("an example")))
});

/// What was read, in words.
#[derive(Default)]
struct Told(Vec<(u64, String)>);

impl Visitor for Told {
    fn exchange(&mut self, exchange: &Exchange<'_>) {
        self.0.push((exchange.address.number, format!("{exchange:?}")));
    }

    fn on_unreadable(&mut self, unreadable: Unreadable) {
        self.0.push((unreadable.number.unwrap_or_default(), unreadable.reason));
    }
}

fn told(data: &[u8], map: &Arc<LineMap>, threads: usize) -> Vec<(u64, String)> {
    let options = ReadOptions { map: Some(Arc::clone(map)), max_exchange: 1 << 16, ..ReadOptions::default() };
    let threads = NonZero::new(threads).expect("more than none");
    let traversal = Traversal { options, threads };
    let workers = traversal.visit_parallel(Source::of(data), 0, Told::default);
    let mut all: Vec<_> = workers.into_iter().flat_map(|one| one.0).collect();
    all.sort();
    all
}

fuzz_target!(|data: &[u8]| {
    let Some((choice, data)) = data.split_first() else { return };
    let map = &MAPS[usize::from(choice & 3)];
    let one = told(data, map, 1);
    assert!(one == told(data, map, 3));
    let options = ReadOptions { map: Some(Arc::clone(map)), max_exchange: 1 << 16, ..ReadOptions::default() };
    let mut writer = RecordingWriter::new(Format::JsonLines, Vec::new());
    let unreadable = writer.copy(Source::of(data), 0, &options).expect("memory can be written");
    let (copy, written) = writer.finish().expect("memory can be written");
    assert_eq!(written.exchanges + unreadable.count, one.len() as u64);
    // What was written can be read.
    let mut again = Told::default();
    if written.exchanges > 0 {
        let options = ReadOptions { format: Some(Format::JsonLines), ..ReadOptions::default() };
        Traversal { options, ..Traversal::default() }.visit_in_order(Source::of(copy.as_slice()), 0, &mut again);
        assert_eq!(again.0.len() as u64, written.exchanges);
    }
});
