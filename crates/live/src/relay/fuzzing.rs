//! What the fuzz target of the recorder's readers asks of them.

use std::sync::Arc;

use super::body_buffer::{KeptBody, MemoryBudget};
use super::framing::BodyFraming;
use super::head::{answered, asked};
use super::target::ForwardTarget;

/// Reads any bytes as what a client sends and as what a service responds. Whatever they are, a head ends within them, no line
/// end of theirs gets into what is forwarded, and pieces give the same as the whole.
///
/// # Panics
/// If that is not so.
pub fn read_heads(bytes: &[u8]) {
    let service = ForwardTarget::Service {
        authority: "harbour.example",
        path: "/v1",
        origin: "http://harbour.example",
        is_local: false,
    };
    for goal in [service, ForwardTarget::Requested] {
        if let Ok(Some((head, length))) = asked(bytes, goal) {
            assert!(length <= bytes.len());
            let fields = head.headers.iter().flat_map(|(name, value)| [name, value]);
            assert!(
                fields
                    .chain([&head.method, &head.to.target])
                    .all(|text| !text.contains(['\r', '\n']))
            );
            let ends = head.bytes.windows(4).filter(|end| *end == b"\r\n\r\n").count();
            assert_eq!((ends, head.bytes.ends_with(b"\r\n\r\n")), (1, true));
            body(head.framing, bytes.get(length..).unwrap_or_default());
        }
    }
    for method in ["GET", "HEAD"] {
        if let Ok(Some((head, length))) = answered(bytes, method) {
            assert!(length <= bytes.len());
            body(head.framing, bytes.get(length..).unwrap_or_default());
        }
    }
}

/// A body ends at the same byte, with the same content, however it comes.
fn body(framing: BodyFraming, bytes: &[u8]) {
    let read = |size: usize| {
        let (mut framing, mut length) = (framing.clone(), 0);
        let mut kept = KeptBody::new(1 << 20, Arc::new(MemoryBudget::new(1 << 20)));
        for piece in bytes.chunks(size.max(1)) {
            if framing.is_done() {
                break;
            }
            length += framing.take(piece, &mut kept).ok()?;
        }
        Some((length, kept.bytes().map(<[u8]>::to_vec), framing.is_done()))
    };
    assert_eq!(read(1), read(bytes.len()));
}
