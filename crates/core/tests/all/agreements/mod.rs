//! Agreements in prose, as contracts: nothing that was agreed is left out, and nothing else is asked for.

mod ferry_line;
mod harness;
mod lamp_office;
mod tide_mill;
