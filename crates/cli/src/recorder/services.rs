//! The services that are recorded, and where clients find them.

use std::collections::BTreeSet;
use std::net::SocketAddr;

use faithful_clerk_live::{Destination, Upstream};
use tokio::net::TcpListener;
use tokio::process::Child;
use tokio::runtime::Runtime;

use crate::child::{RecordedAddress, command, proxied_command};
use crate::exit::Failure;
use crate::flags::{RecordArgs, ServiceUrl};

/// A service, or whatever requests name, and where it is recorded.
pub(crate) struct ListeningService {
    name: Option<String>,
    pub(crate) destination: Destination,
    pub(crate) listener: TcpListener,
    address: SocketAddr,
}

/// Where a call forwards to: to services, each with a name of its own where there are several, or as a proxy.
pub(crate) fn services(args: &RecordArgs) -> Result<Vec<(Option<String>, Destination)>, Failure> {
    if args.proxy {
        return Ok(vec![(None, Destination::Requested)]);
    }
    let asked: &[ServiceUrl] = &args.upstream;
    let mut names = BTreeSet::new();
    let mut found = Vec::new();
    for ServiceUrl { name, url } in asked {
        if asked.len() > 1 {
            let Some(name) = name else {
                let why = format!("several services need names; write --upstream NAME={url}");
                return Err(Failure::Call(why));
            };
            if !names.insert(name) {
                return Err(Failure::Call(format!("two services are called {name}")));
            }
        }
        let upstream = Upstream::at(url)
            .map_err(|why| Failure::Call(format!("can't forward to {url}: {why}")))?;
        found.push((name.clone(), Destination::Service(upstream)));
    }
    Ok(found)
}

/// Listens for each service: for the first at the address that was asked for, for the others at any free port there.
pub(crate) fn listening(
    services: Vec<(Option<String>, Destination)>,
    listen: SocketAddr,
    runtime: &Runtime,
) -> Result<Vec<ListeningService>, Failure> {
    let mut at = listen;
    let mut found = Vec::new();
    for (name, destination) in services {
        let fail = |error: std::io::Error| {
            Failure::Call(format!(
                "can't listen on {at}: {error}; choose another address with --listen"
            ))
        };
        let listener = runtime.block_on(TcpListener::bind(at)).map_err(fail)?;
        let address = listener.local_addr().map_err(fail)?;
        found.push(ListeningService { name, destination, listener, address });
        at.set_port(0);
    }
    Ok(found)
}

/// Starts the command.
pub(crate) fn started(
    args: &RecordArgs,
    services: &[ListeningService],
    runtime: &Runtime,
) -> Result<Child, Failure> {
    let address = |service: &ListeningService| RecordedAddress {
        name: service.name.clone(),
        url: format!("http://{}", service.address),
    };
    let addresses: Vec<RecordedAddress> = services.iter().map(address).collect();
    let mut command = match (args.proxy, addresses.first()) {
        (true, Some(proxy)) => proxied_command(&args.command, &proxy.url)?,
        _ => command(&args.command, &args.env, &addresses)?,
    };
    // What is started belongs to the runtime that waits for it.
    let _inside = runtime.enter();
    command.spawn().map_err(|error| {
        let program = args.command.first().map(|program| program.display().to_string());
        Failure::Call(format!("can't run {}: {error}", program.unwrap_or_default()))
    })
}

/// Where clients find the services.
pub(crate) fn greeting(services: &[ListeningService], args: &RecordArgs) -> String {
    let line = |service: &ListeningService| {
        let name = service.name.as_ref().map(|name| format!(" for {name}")).unwrap_or_default();
        let address = service.address;
        match &service.destination {
            Destination::Service(upstream) => {
                format!("Listening on http://{address}{name}, forwarding to {}\n", upstream.url())
            }
            Destination::Requested => format!(
                "Listening on http://{address} as an HTTP proxy. HTTPS passes through it and is not recorded\n"
            ),
        }
    };
    let lines: String = services.iter().map(line).collect();
    format!("{lines}Recording to {}. Press Ctrl-C to stop.\n", args.output.display())
}
