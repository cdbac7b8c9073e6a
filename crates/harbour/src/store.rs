//! What the harbour has: berths, vessels, reservations.

use std::collections::BTreeMap;

use jiff::ToSpan as _;
use jiff::civil::Date;
use serde_json::{Value, json};

/// A berth: its id, its length in metres, and until when it is let, if it is.
pub(crate) type Berth = (&'static str, f64, Option<&'static str>);

pub(crate) const BERTHS: [Berth; 5] = [
    ("A-3", 12.0, None),
    ("A-4", 12.0, Some("2027-05-01")),
    ("B-1", 9.5, None),
    ("B-2", 9.5, None),
    ("C-7", 18.0, Some("2027-04-19")),
];

/// A reservation.
#[derive(Debug, Clone)]
pub(crate) struct Reservation {
    pub(crate) vessel_id: String,
    pub(crate) berth_id: String,
    pub(crate) arrives: Date,
    pub(crate) nights: i64,
    /// When the vessel came, once it did.
    pub(crate) arrived_at: Option<String>,
    /// How often it was changed.
    pub(crate) changes: u32,
}

/// All that changes.
#[derive(Debug)]
pub(crate) struct Store {
    pub(crate) vessels: BTreeMap<String, Value>,
    pub(crate) reservations: BTreeMap<String, Reservation>,
    /// The bookings that had an idempotency key, by it: what was sent, and the reservation.
    pub(crate) keys: BTreeMap<String, (Value, String)>,
    next: u32,
}

impl Default for Store {
    fn default() -> Self {
        let vessel = |id: &str, name: &str, length: f64, draught: f64| {
            let members =
                json!({"name": name, "length_m": length, "draught_m": draught, "flag": "OB"});
            (id.to_owned(), members)
        };
        let vessels =
            [vessel("OB1234", "Sea Aster", 10.4, 1.6), vessel("OB5678", "Marram", 8.1, 1.1)];
        let (reservations, keys) = Default::default();
        Self { vessels: vessels.into(), reservations, keys, next: 0x7f_3a21 }
    }
}

impl Store {
    /// The id of the next reservation; it is used up, whatever becomes of the reservation.
    pub(crate) fn draw(&mut self) -> String {
        let id = format!("r-{:06x}", self.next);
        self.next += 1;
        id
    }

    /// Until when the berth is taken at that time, if it is.
    pub(crate) fn taken_until(&self, berth: &Berth, arrives: Date, nights: i64) -> Option<String> {
        if let Some(until) =
            berth.2.filter(|until| until.parse().is_ok_and(|until: Date| arrives < until))
        {
            return Some(until.to_owned());
        }
        let leaves = |arrives: Date, nights: i64| arrives.saturating_add(nights.days());
        let end = leaves(arrives, nights);
        let clashes = self.reservations.values().filter(|other| other.berth_id == berth.0);
        let clash = clashes.map(|other| (other.arrives, leaves(other.arrives, other.nights)));
        clash.filter(|(from, to)| *from < end && arrives < *to).map(|(_, to)| to.to_string()).next()
    }
}

pub(crate) fn berth(id: &str) -> Option<&'static Berth> {
    BERTHS.iter().find(|berth| berth.0 == id)
}

/// A berth as it is shown; by itself it has lost its depth in `after`.
pub(crate) fn shown_berth(berth: &Berth, with_depth: bool) -> Value {
    let (id, length, let_until) = berth;
    let quay = match id.as_bytes().first() {
        Some(b'A') => "north",
        Some(b'B') => "mill",
        _ => "outer",
    };
    let mut shown =
        json!({"id": id, "quay": quay, "length_m": length, "free": let_until.is_none()});
    if with_depth {
        // To a tenth of a metre.
        let depth = format!("{:.1}", 1.4 + length / 8.0);
        shown["depth_m"] = json!(depth.parse::<f64>().unwrap_or_default());
    }
    shown
}

impl Reservation {
    /// Its entity tag (RFC 9110 section 8.8.3): another after each change.
    pub(crate) fn tag(&self, id: &str) -> String {
        format!("\"{id}.{}\"", self.changes)
    }

    pub(crate) fn shown(&self, id: &str) -> Value {
        let state = if self.arrived_at.is_some() { "checked-in" } else { "booked" };
        json!({
            "id": id, "vessel_id": self.vessel_id, "berth_id": self.berth_id,
            "arrives": self.arrives.to_string(), "nights": self.nights, "state": state,
        })
    }
}
