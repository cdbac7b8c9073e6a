//! Writes made-up traffic to standard output: `write [compact|pretty|lines] MEGABYTES [SEED] [MOULD]`, where MOULD is
//! gateway, devtools, proxy or ragged.

use std::io::{Error, Write as _};

use faithful_clerk_testkit::{Mixture, Mould, Traffic, TrafficFormat};

fn main() -> Result<(), Error> {
    let mut arguments = std::env::args().skip(1);
    let form = match arguments.next().as_deref() {
        Some("compact") => TrafficFormat::Compact,
        Some("pretty") => TrafficFormat::Pretty,
        Some("lines") => TrafficFormat::Lines,
        _ => {
            return Err(Error::other(
                "usage: write compact|pretty|lines [MEGABYTES] [SEED] [MOULD]",
            ));
        }
    };
    let megabytes: usize = arguments.next().and_then(|n| n.parse().ok()).unwrap_or(100);
    let mut traffic = Traffic::new(form, Mixture::Usual, megabytes * 1_000_000);
    if let Some(seed) = arguments.next().and_then(|n| n.parse().ok()) {
        traffic = traffic.seeded(seed);
    }
    traffic = match arguments.next().as_deref() {
        None | Some("gateway") => traffic,
        Some("devtools") => traffic.mould(Mould::DevTools),
        Some("proxy") => traffic.mould(Mould::Proxy),
        Some("ragged") => traffic.mould(Mould::Ragged),
        Some(_) => return Err(Error::other("MOULD is gateway, devtools, proxy or ragged")),
    };
    let mut stdout = std::io::stdout().lock();
    std::io::copy(&mut traffic, &mut stdout)?;
    stdout.flush()
}
