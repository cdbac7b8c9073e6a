//! The parts of the service, one file each. What went wrong before is said where it is built in.

pub(crate) mod arrivals;
pub(crate) mod berths;
pub(crate) mod fees;
pub(crate) mod reservations;
pub(crate) mod tides;
pub(crate) mod vessels;
