//! `fclerk demo --serve`: the harbour's service on loopback, until it is stopped.

use std::net::Ipv4Addr;

use faithful_clerk_harbour::{State, TOKEN, serve};
use tokio::net::TcpListener;
use tokio::runtime::Runtime;

use crate::exit::{Failure, Outcome};
use crate::flags::Served;
use crate::output::say;

/// The usual port of the harbour.
pub(crate) const PORT: u16 = 7878;

pub(crate) fn run(state: Served, port: u16) -> Result<Outcome, Failure> {
    let fail = |error: std::io::Error| {
        Failure::Call(format!(
            "the harbour can't be served on 127.0.0.1:{port}: {error} (--port names another)"
        ))
    };
    let runtime = Runtime::new().map_err(fail)?;
    runtime.block_on(async {
        let listener = TcpListener::bind((Ipv4Addr::LOCALHOST, port)).await.map_err(fail)?;
        let address = listener.local_addr().map_err(fail)?;
        let (state, word) = match state {
            Served::Before => (State::Before, "before"),
            Served::After => (State::After, "after"),
        };
        say(&format!(
            "Saltmarsh Harbour, {word} its errors were mended: http://{address}/v1\n\
             Its token: Authorization: Bearer {TOKEN}\n\
             Ctrl-C stops it.\n"
        ))?;
        let stop = async {
            // Where nobody can listen for it, the process ends by it anyway.
            let _ = tokio::signal::ctrl_c().await;
        };
        serve(listener, state, stop).await.map_err(fail)
    })?;
    // Requests that never get an answer are not waited for.
    runtime.shutdown_background();
    Ok(Outcome::Kept)
}
