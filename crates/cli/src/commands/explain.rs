//! `fclerk explain`: clauses, families of clauses, situations, keys of contracts and the faults of one.

use faithful_clerk_check::clauses::{catalogue, clause};
use faithful_clerk_contract::{CONTRACT_SCHEMA, KeyDescription, key_descriptions, nearest};
use faithful_clerk_model::situation::Situation;
use faithful_clerk_report::{Theme, explain};

use crate::contracts::contract_if_any;
use crate::exit::{Completion, Failure};
use crate::flags::{ExplainArgs, ExplainFormat, OutputSettings};
use crate::output::print_result;

pub(crate) fn run(args: &ExplainArgs, settings: &OutputSettings) -> Result<Completion, Failure> {
    let text = match args.name.as_deref() {
        None if args.contract_schema => CONTRACT_SCHEMA.to_owned(),
        None if args.format == ExplainFormat::Markdown => explain::markdown(),
        None => explain::all(settings.stdout),
        Some(name) => match named(name, settings.stdout) {
            Some(text) => text,
            None => fault(name, settings)?.ok_or_else(|| unknown(name))?,
        },
    };
    print_result(&text)?;
    Ok(Completion::Kept)
}

/// What is said of a name: it is a clause's, a family's, a situation's or a key's.
fn named(name: &str, theme: Theme) -> Option<String> {
    let one = || clause(name).map(|clause| explain::one(clause, theme));
    let family = || explain::family(name, theme);
    let situation = || Situation::named(name).map(|one| explain::situation(one, theme));
    let keys = || {
        let all = key_descriptions().into_iter();
        let last = |key: &KeyDescription| key.path.rsplit('.').next() == Some(name);
        let keys: Vec<_> = all.filter(|key| key.path == name || last(key)).collect();
        (!keys.is_empty()).then(|| explain::keys(&keys, theme))
    };
    // A name can be a family's and a key's, as `status` is.
    let shared = || match (family(), keys()) {
        (Some(family), Some(keys)) => Some(format!("{family}\n{keys}")),
        (family, keys) => family.or(keys),
    };
    one().or_else(situation).or_else(shared)
}

/// A fault of the contract that is here or above, where there is one.
fn fault(name: &str, settings: &OutputSettings) -> Result<Option<String>, Failure> {
    let Some(read) = contract_if_any(None, settings.stderr)? else { return Ok(None) };
    let fault = read.contract.faults.iter().find(|fault| fault.name == name);
    Ok(fault.map(|fault| explain::fault(fault, &read.contract, &read.name(), settings.stdout)))
}

fn unknown(name: &str) -> Failure {
    let last = |key: KeyDescription| key.path.rsplit('.').next().map(str::to_owned);
    let keys = key_descriptions().into_iter().filter_map(last);
    let families = catalogue().filter_map(|clause| clause.name.split('.').next());
    let clauses = catalogue().map(|clause| clause.name);
    let situations = Situation::ALL.into_iter().map(Situation::name);
    let fixed = clauses.chain(families).chain(situations).map(str::to_owned);
    let names: Vec<String> = fixed.chain(keys).collect();
    let hint = match nearest(name, names.iter().map(String::as_str)) {
        Some(near) => format!("did you mean `{near}`?"),
        None => "`fclerk explain` lists all clauses".to_owned(),
    };
    Failure::Call(format!(
        "`{name}` is no clause, family of clauses, situation, key of contracts or fault of the contract here; {hint}"
    ))
}
