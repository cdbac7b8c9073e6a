//! Writes made-up traffic to standard output: `write [compact|pretty|lines] MEGABYTES [SEED]`.

use std::io::{Error, Write as _};

use faithful_clerk_traffic::{Form, Mixture, Traffic};

fn main() -> Result<(), Error> {
    let mut arguments = std::env::args().skip(1);
    let form = match arguments.next().as_deref() {
        Some("compact") => Form::Compact,
        Some("pretty") => Form::Pretty,
        Some("lines") => Form::Lines,
        _ => {
            return Err(Error::other(
                "say compact, pretty or lines, how many megabytes, and another seed if it shall be another",
            ));
        }
    };
    let megabytes: usize = arguments.next().and_then(|n| n.parse().ok()).unwrap_or(100);
    let mut traffic = Traffic::new(form, Mixture::Usual, megabytes * 1_000_000);
    if let Some(seed) = arguments.next().and_then(|n| n.parse().ok()) {
        traffic = traffic.seeded(seed);
    }
    let mut stdout = std::io::stdout().lock();
    std::io::copy(&mut traffic, &mut stdout)?;
    stdout.flush()
}
