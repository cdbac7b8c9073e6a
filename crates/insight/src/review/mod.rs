//! A contract by itself: what nobody has said in it, what can never come, and how it is understood.

mod agreement;
mod notices;
mod resolved;

pub use agreement::{Disagreement, disagreement_of_fault, disagreements};
pub use notices::{
    ContractNotices, NeverExpected, OverlappingCases, UnansweredSituations, contract_notices,
};
pub use resolved::{
    ResolvedCase, ResolvedContract, ResolvedEndpoint, ResolvedFault, resolved_contract,
};
