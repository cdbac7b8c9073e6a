//! The door to Faithful Clerk's computation.
