//! A command that is run while a recorder listens.

use std::ffi::OsString;
use std::process::ExitStatus;

use tokio::process::{Child, Command};

use crate::exit::Failure;

/// What stands for the address in a command's arguments.
const HOLE: &str = "{url}";

/// Where a service is recorded, and what it is called where it has a name.
#[derive(Debug)]
pub(crate) struct RecordedAddress {
    pub(crate) name: Option<String>,
    pub(crate) url: String,
}

/// A shell's own code for a command that was ended by a signal: this, and the signal's number.
#[cfg(unix)]
const BY_SIGNAL: i32 = 128;

/// The command with the addresses in its environment and in its arguments; that of the first service also without a name.
/// Standard streams are its own.
pub(crate) fn command(
    words: &[OsString],
    variable: &str,
    addresses: &[RecordedAddress],
) -> Result<Command, Failure> {
    let mut holes: Vec<(String, &str)> = Vec::new();
    let mut variables: Vec<(String, &str)> = Vec::new();
    for RecordedAddress { name, url } in addresses {
        if let Some(name) = name {
            holes.push((format!("{{url:{name}}}"), url));
            let name = name.to_ascii_uppercase().replace('-', "_");
            variables.push((format!("{variable}_{name}"), url));
        }
    }
    if let Some(first) = addresses.first() {
        holes.push((HOLE.to_owned(), &first.url));
        variables.push((variable.to_owned(), &first.url));
    }
    let filled = |word: &OsString| -> OsString {
        match word.to_str() {
            Some(text) => {
                let fill = |text: String, (hole, url): &(String, &str)| text.replace(hole, url);
                holes.iter().fold(text.to_owned(), fill).into()
            }
            None => word.clone(),
        }
    };
    let Some((program, arguments)) = words.split_first() else {
        return Err(Failure::Call("there is no command behind `--`".to_owned()));
    };
    if variable.is_empty() || variable.contains(['=', '\0']) {
        return Err(Failure::Call(format!("`{variable}` can't be the name of a variable")));
    }
    let mut command = Command::new(program);
    command.args(arguments.iter().map(filled)).envs(variables);
    Ok(command)
}

/// What tells programs which proxy to use, by custom.
const PROXY_VARIABLES: [&str; 4] = ["HTTP_PROXY", "http_proxy", "HTTPS_PROXY", "https_proxy"];

/// The command with the proxy's address where programs look for it, and in its arguments. Nothing goes past the proxy, as what is
/// on this machine often would.
pub(crate) fn proxied_command(words: &[OsString], proxy: &str) -> Result<Command, Failure> {
    let address = RecordedAddress { name: None, url: proxy.to_owned() };
    let mut command = command(words, PROXY_VARIABLES[0], &[address])?;
    command.envs(PROXY_VARIABLES.map(|variable| (variable, proxy)));
    command.env_remove("NO_PROXY").env_remove("no_proxy");
    Ok(command)
}

/// Its exit code, as a shell has it.
pub(crate) fn exit_code(status: ExitStatus) -> u8 {
    #[cfg(unix)]
    let code = {
        use std::os::unix::process::ExitStatusExt as _;
        status.code().or_else(|| status.signal().map(|signal| BY_SIGNAL + signal))
    };
    #[cfg(not(unix))]
    let code = status.code();
    code.and_then(|code| u8::try_from(code).ok()).unwrap_or(u8::MAX)
}

/// Waits for its end. Who ends the recorder means the command: what the recorder is told, it is told, unless the terminal
/// tells both.
pub(crate) async fn ended(mut child: Child, mut asked: EndSignals) -> std::io::Result<ExitStatus> {
    loop {
        tokio::select! {
            status = child.wait() => return status,
            ask = asked.come() => tell(&child, ask),
        }
    }
}

/// How a process is asked to end.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(crate) enum EndRequest {
    Interrupt,
    Terminate,
}

#[cfg(unix)]
fn tell(child: &Child, ask: EndRequest) {
    use std::io::IsTerminal as _;

    use rustix::process::{Pid, Signal, kill_process};
    let signal = match ask {
        // A terminal's Ctrl-C goes to all that run in it.
        EndRequest::Interrupt if std::io::stdin().is_terminal() => return,
        EndRequest::Interrupt => Signal::INT,
        EndRequest::Terminate => Signal::TERM,
    };
    let number = child.id().and_then(|id| i32::try_from(id).ok());
    if let Some(id) = number.and_then(Pid::from_raw) {
        // One that has ended by itself needs not be told.
        let _ = kill_process(id, signal);
    }
}

#[cfg(not(unix))]
fn tell(_: &Child, _: EndRequest) {}

/// What asks this to end: Ctrl-C, or a request to terminate. It listens from the moment that it is made.
#[derive(Debug)]
pub(crate) struct EndSignals {
    #[cfg(unix)]
    signals: Option<[tokio::signal::unix::Signal; 2]>,
}

impl EndSignals {
    /// Listens. Within a runtime.
    #[cfg(unix)]
    pub(crate) fn listen() -> Self {
        use tokio::signal::unix::{SignalKind, signal};
        // Where nobody can listen for it, the process ends by it anyway.
        let both = [SignalKind::interrupt(), SignalKind::terminate()].map(signal);
        let signals = match both {
            [Ok(interrupt), Ok(terminate)] => Some([interrupt, terminate]),
            _ => None,
        };
        Self { signals }
    }

    /// Listens. Within a runtime.
    #[cfg(not(unix))]
    pub(crate) fn listen() -> Self {
        Self {}
    }

    /// Comes when somebody wants this to end.
    #[cfg(unix)]
    pub(crate) async fn come(&mut self) -> EndRequest {
        let Some([interrupt, terminate]) = &mut self.signals else {
            return std::future::pending().await;
        };
        tokio::select! {
            _ = interrupt.recv() => EndRequest::Interrupt,
            _ = terminate.recv() => EndRequest::Terminate,
        }
    }

    /// Comes when somebody wants this to end.
    #[cfg(not(unix))]
    pub(crate) async fn come(&mut self) -> EndRequest {
        if tokio::signal::ctrl_c().await.is_err() {
            std::future::pending::<()>().await;
        }
        EndRequest::Interrupt
    }
}
