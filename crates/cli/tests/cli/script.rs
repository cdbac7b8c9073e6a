//! A service that is a list of responses.

use std::io::{Read as _, Write as _};
use std::net::{TcpListener, TcpStream};
use std::sync::{Arc, Mutex};

fn text(bytes: &[u8]) -> String {
    String::from_utf8_lossy(bytes).into_owned()
}

/// A service that answers the request for `/N` with the Nth answer, to the byte, and keeps what it was asked. It closes
/// the connection behind a response that says so, or that has no other end.
pub(crate) struct Script {
    pub(crate) address: String,
    pub(crate) asked: Arc<Mutex<Vec<Vec<u8>>>>,
}

/// What responds to a request.
type Respond = dyn Fn(&[u8]) -> Vec<u8> + Send + Sync;

impl Script {
    pub(crate) fn start(responses: Vec<Vec<u8>>) -> Self {
        Self::responding(move |request| {
            let path = text(request);
            let path = path.split(' ').nth(1).unwrap_or_default().rsplit('/').next().unwrap();
            let number: usize = path.parse().unwrap_or_default();
            responses[number].clone()
        })
    }

    /// A service that responds as it likes.
    pub(crate) fn responding(respond: impl Fn(&[u8]) -> Vec<u8> + Send + Sync + 'static) -> Self {
        let listener = TcpListener::bind("127.0.0.1:0").unwrap();
        let address = listener.local_addr().unwrap().to_string();
        let asked = Arc::new(Mutex::new(Vec::new()));
        let (respond, kept): (Arc<Respond>, _) = (Arc::new(respond), Arc::clone(&asked));
        std::thread::spawn(move || {
            for stream in listener.incoming().flatten() {
                let (respond, kept) = (Arc::clone(&respond), Arc::clone(&kept));
                std::thread::spawn(move || Self::serve(stream, &*respond, &kept));
            }
        });
        Self { address, asked }
    }

    fn serve(mut stream: TcpStream, respond: &Respond, kept: &Mutex<Vec<Vec<u8>>>) {
        let mut ahead = Vec::new();
        while let Some(request) = Self::request(&mut stream, &mut ahead) {
            let response = respond(&request);
            kept.lock().unwrap().push(request);
            if stream.write_all(&response).is_err() {
                return;
            }
            let head = text(&response).to_lowercase();
            let ends = ["content-length", "chunked", " 204 ", " 304 "];
            if head.contains("connection: close") || !ends.iter().any(|end| head.contains(end)) {
                return;
            }
        }
    }

    /// A whole request: its head, and its body by length or in chunks.
    fn request(stream: &mut TcpStream, ahead: &mut Vec<u8>) -> Option<Vec<u8>> {
        let find = |bytes: &[u8], what: &[u8]| bytes.windows(what.len()).position(|at| at == what);
        loop {
            if let Some(head) = find(ahead, b"\r\n\r\n").map(|at| at + 4) {
                let words = text(&ahead[..head]).to_lowercase();
                let length = words
                    .split("content-length: ")
                    .nth(1)
                    .map(|rest| rest.split("\r\n").next().unwrap().parse::<usize>().unwrap());
                let end = match length {
                    Some(length) => Some(head + length),
                    None if words.contains("chunked") => {
                        find(&ahead[head..], b"0\r\n\r\n").map(|at| head + at + 5)
                    }
                    None => Some(head),
                };
                if let Some(end) = end.filter(|end| *end <= ahead.len()) {
                    return Some(ahead.drain(..end).collect());
                }
            }
            let mut entry = [0; 65536];
            match stream.read(&mut entry) {
                Ok(length @ 1..) => ahead.extend_from_slice(&entry[..length]),
                _ => return None,
            }
        }
    }
}
