//! What of the recordings the contract reached: where it reached nothing, what lies nearest.

use faithful_clerk_contract::{ErrorContract, Server, ServerDifference};

use super::{EndpointRow, Ledger};

/// Less than one in so many exchanges at an endpoint looks like a wrong base path.
const FEW: u64 = 10;

/// The server of a contract that lies nearest to one that was called.
#[derive(Debug)]
pub struct NearestServer<'a> {
    /// Where requests went: the start of their URLs.
    pub called: &'a str,
    /// The server of the contract.
    pub server: &'a Server,
    /// In what the two differ.
    pub differences: Vec<ServerDifference>,
}

impl Ledger {
    /// Of the servers that were called and are not the contract's, the one that differs least from one that is.
    /// `None` where no such server was called.
    #[must_use]
    pub fn nearest_server<'a>(&'a self, contract: &'a ErrorContract) -> Option<NearestServer<'a>> {
        let pairs = self.foreign.iter().flat_map(|called| {
            contract.all_servers().map(move |server| NearestServer {
                called,
                server,
                differences: server.differences(called),
            })
        });
        pairs.min_by_key(|pair| pair.differences.len())
    }

    /// How many of the checked exchanges were at an endpoint of the contract, where those are so few that its servers
    /// look wrong.
    #[must_use]
    pub fn few_at_endpoints(&self) -> Option<u64> {
        let at_endpoints =
            self.grid.iter().filter(|((row, _), _)| *row != EndpointRow::UnknownRoute);
        let met: u64 =
            at_endpoints.map(|(_, cell)| cell.met + cell.broken + cell.not_checked).sum();
        (self.checked >= FEW && met * FEW < self.checked).then_some(met)
    }
}
