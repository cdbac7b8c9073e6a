//! `fclerk explain`: what the clauses ask.

use faithful_clerk_check::clauses::catalogue;
use faithful_clerk_check::clauses::clause;
use faithful_clerk_contract::nearest;
use faithful_clerk_report::explain;

use crate::exit::{Completion, Failure};
use crate::flags::{ExplainArgs, ExplainFormat, OutputSettings};
use crate::output::print_result;

pub(crate) fn run(args: &ExplainArgs, settings: &OutputSettings) -> Result<Completion, Failure> {
    let text = match args.clause.as_deref() {
        None if args.format == ExplainFormat::Markdown => explain::markdown(),
        None => explain::all(settings.stdout),
        Some(name) => {
            let clause = clause(name).ok_or_else(|| unknown(name))?;
            explain::one(clause, settings.stdout)
        }
    };
    print_result(&text)?;
    Ok(Completion::Kept)
}

fn unknown(name: &str) -> Failure {
    let hint = match nearest(name, catalogue().map(|clause| clause.name)) {
        Some(near) => format!("did you mean `{near}`?"),
        None => "`fclerk explain` lists them all".to_owned(),
    };
    Failure::Call(format!("unknown clause `{name}`; {hint}"))
}
