//! `[envelope]` and `[codes]`: an envelope of the service's own, and its application codes.

use std::ops::RangeInclusive;

use crate::model::FaultId;

/// The step of a pointer that stands for each language.
pub const LANGUAGE: &str = "{language}";

/// Where things stand in an error's body. Each is a JSON Pointer, in steps, in which `*` is every item of an array and
/// [`LANGUAGE`] each language of the contract.
#[derive(Debug, Clone, Default)]
pub struct Envelope {
    /// The status code that the body repeats.
    pub status: Option<Vec<String>>,
    /// The application code.
    pub code: Option<Vec<String>>,
    /// The title of the fault.
    pub title: Option<Vec<String>>,
    /// The message to people.
    pub message: Option<Vec<String>>,
    /// The object that a fault's members are in.
    pub members: Option<Vec<String>>,
    /// The flag that says whether the request was a success.
    pub success: Option<Vec<String>>,
    /// The entries of a validation error.
    pub fields: Option<ViolationPointers>,
}

/// Where the entries of a validation error stand, and what in them.
#[derive(Debug, Clone)]
pub struct ViolationPointers {
    /// Steps to every entry; `*` stands for each item or member.
    pub each: Vec<String>,
    /// Steps from an entry to the name of the field.
    pub location: LocationSource,
    /// Steps from an entry to its reason.
    pub message: Option<Vec<String>>,
    /// Steps from an entry to its code.
    pub code: Option<Vec<String>>,
}

/// Where an entry names its field.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum LocationSource {
    /// Steps from the entry.
    Pointer(Vec<String>),
    /// The name of the member under which the entry stands.
    MemberName,
}

/// The application codes.
#[derive(Debug, Clone, Default)]
pub struct ApplicationCodes {
    /// The range that numbers have to be in.
    pub range: Option<RangeInclusive<i64>>,
    /// The catalogue: each code as text, and the fault that it stands for.
    pub catalogue: Vec<(String, Option<FaultId>)>,
}
