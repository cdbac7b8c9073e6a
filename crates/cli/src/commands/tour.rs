//! What each step of the demo shows, in short.

use std::sync::LazyLock;

use faithful_clerk_core::clause::judge;
use faithful_clerk_core::compare::{Between, Plan, Side, compare};
use faithful_clerk_core::place::{Credentials, place};
use faithful_clerk_core::survey::Gathered;
use faithful_clerk_core::{
    Check, Contract, Exchange, Gather, Ledger, Loss, Names, Pass, Placing, Source,
};
use faithful_clerk_report::compare::{self as written, Compared};
use faithful_clerk_report::show::{Known, View, terminal};
use faithful_clerk_report::{Report, coverage, survey, text};

use crate::flags::Stage;

/// A survey needs no contract.
static BARE: LazyLock<Contract> = LazyLock::new(Contract::default);

/// So many findings are read at a glance.
const FEW: usize = 3;

/// A recording: its name, and its text.
#[derive(Debug, Clone, Copy)]
pub(super) struct Recorded<'r> {
    pub(super) name: &'r str,
    pub(super) text: &'r str,
}

impl Recorded<'_> {
    fn gathered(self) -> Gathered<'static> {
        let mut sum = Gathered::new(&BARE);
        Pass::default().in_order(Source::of(self.text.as_bytes()), 0, &mut sum);
        sum
    }
}

/// Leads through the commands.
pub(super) struct Tour<'c> {
    pub(super) contract: &'c Contract,
    pub(super) stage: &'c Stage,
}

impl Tour<'_> {
    pub(super) fn survey(&self, of: Recorded<'_>) -> String {
        let names = [of.name.to_owned()];
        survey::overview(&of.gathered().conclude(), Names(&names), self.stage.stdout)
    }

    fn checked(&self, of: Recorded<'_>) -> Ledger {
        let mut ledger = Check::new(self.contract).recording(Source::of(of.text.as_bytes()), 0);
        ledger.conclude(self.contract);
        ledger
    }

    pub(super) fn check(&self, of: Recorded<'_>) -> String {
        let (ledger, names) = (self.checked(of), [of.name.to_owned()]);
        let report = Report::new(&ledger, self.contract, &names);
        // Many findings are for `check` to show, a grid shows them at a glance; a few are shown here.
        match ledger.findings.len() > FEW {
            true => text::overview(&report, self.stage.stdout),
            false => text::without_grid(&report, self.stage.stdout),
        }
    }

    pub(super) fn show(&self, of: Recorded<'_>, number: u64) -> String {
        let mut showing = Showing { tour: self, name: of.name, number, shown: String::new() };
        Pass::default().in_order(Source::of(of.text.as_bytes()), 0, &mut showing);
        showing.shown
    }

    pub(super) fn coverage(&self, of: Recorded<'_>) -> String {
        let ledger = self.checked(of);
        let report = Report::new(&ledger, self.contract, &[]);
        coverage::overview(&report, self.stage.stdout)
    }

    pub(super) fn compare(&self, before: Recorded<'_>, after: Recorded<'_>) -> String {
        let sides = [before, after].map(Recorded::gathered);
        let plan = Plan::of(sides, Some(self.contract), Between::Times);
        let seen = |of: Recorded<'_>, at: usize| {
            let mut side = Side::new(&plan, at);
            Pass::default().in_order(Source::of(of.text.as_bytes()), u32::from(at > 0), &mut side);
            side
        };
        let comparison = compare(&plan, seen(before, 0), seen(after, 1));
        let names = [before.name.to_owned(), after.name.to_owned()];
        let compared = Compared {
            comparison: &comparison,
            sides: [before.name, after.name],
            names: Names(&names),
            contract: Some("error-contract.toml"),
        };
        written::overview(compared, self.stage.stdout)
    }
}

/// Lays one exchange out.
struct Showing<'t> {
    tour: &'t Tour<'t>,
    name: &'t str,
    number: u64,
    shown: String,
}

impl Gather for Showing<'_> {
    fn exchange(&mut self, exchange: &Exchange<'_>) {
        if exchange.address.number != self.number {
            return;
        }
        let known = match place(exchange, self.tour.contract, Credentials::Recorded) {
            Placing::Aside(reason) => Known::Aside(reason),
            Placing::Placed(placed) => {
                let judgement = judge(&placed);
                Known::Judged(placed, judgement.findings)
            }
        };
        let address = format!("{}#{}", self.name, self.number);
        self.shown = terminal(&View { address, exchange, known }, self.tour.stage.stdout);
    }

    fn lose(&mut self, _: Loss) {}

    fn is_done(&self) -> bool {
        !self.shown.is_empty()
    }
}
