//! What recordings say beyond a check: a survey without a contract, a drafted contract, a comparison of two recordings,
//! coverage, probe plans, and a contract as documentation.

pub mod compare;
pub mod coverage;
pub mod draft;
pub mod handbook;
pub mod probe;
pub mod review;
pub mod sample;
pub mod survey;
