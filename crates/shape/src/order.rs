//! Which of two values comes first: dates, times and numbers.

use std::cmp::Ordering;

use serde_json::Value;

use super::format::{is_date, is_date_time};
use faithful_clerk_model::headers::http_date;

/// How one value stands to another. None where they can't be compared.
#[must_use]
pub fn order(one: &Value, other: &Value) -> Option<Ordering> {
    match (one, other) {
        (Value::Number(one), Value::Number(other)) => match (one.as_i128(), other.as_i128()) {
            (Some(one), Some(other)) => Some(one.cmp(&other)),
            _ => one.as_f64()?.partial_cmp(&other.as_f64()?),
        },
        (Value::String(one), Value::String(other)) if is_date(one) && is_date(other) => {
            // Four digits, two and two: their order is that of the calendar.
            Some(one.cmp(other))
        }
        (Value::String(one), Value::String(other)) if is_date_time(one) && is_date_time(other) => {
            let instant = |text: &str| text.parse::<jiff::Timestamp>().ok();
            Some(instant(one)?.cmp(&instant(other)?))
        }
        (Value::String(one), Value::String(other)) => Some(http_date(one)?.cmp(&http_date(other)?)),
        _ => None,
    }
}
