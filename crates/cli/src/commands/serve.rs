//! `fclerk demo --serve`: the harbour's service on loopback, until it is stopped.

use std::net::Ipv4Addr;
use std::num::NonZeroU32;

use faithful_clerk_harbour::{Edition, TOKEN, serve};
use tokio::net::TcpListener;
use tokio::runtime::Runtime;

use crate::exit::{Completion, Failure};
use crate::flags::DemoService;
use crate::output::print_result;

pub(crate) fn run(
    state: DemoService,
    port: u16,
    per_second: Option<NonZeroU32>,
) -> Result<Completion, Failure> {
    let fail = |error: std::io::Error| {
        Failure::Call(format!(
            "can't serve the harbour on 127.0.0.1:{port}: {error}; choose another port with --port"
        ))
    };
    let runtime = Runtime::new().map_err(fail)?;
    runtime.block_on(async {
        let listener = TcpListener::bind((Ipv4Addr::LOCALHOST, port)).await.map_err(fail)?;
        let address = listener.local_addr().map_err(fail)?;
        let (state, word) = match state {
            DemoService::Before => (Edition::Before, "before"),
            DemoService::After => (Edition::After, "after"),
        };
        print_result(&format!(
            "Saltmarsh Harbour, {word} its errors were fixed: http://{address}/v1\nToken: Authorization: Bearer {TOKEN}\nPress Ctrl-C to stop.\n"
        ))?;
        let stop = async {
            // Where nobody can listen for it, the process ends by it anyway.
            let _ = tokio::signal::ctrl_c().await;
        };
        serve(listener, state, per_second, stop).await.map_err(fail)
    })?;
    // Requests that never get a response are not waited for.
    runtime.shutdown_background();
    Ok(Completion::Kept)
}
