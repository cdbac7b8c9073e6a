//! A set of clauses, and what is counted for each: by the clause's place in the catalogue, since every
//! exchange is entered for dozens of them.

use super::catalogue::{FAMILIES, catalogue};

/// How many clauses there are.
pub const COUNT: usize = {
    let (mut count, mut family) = (0, 0);
    while family < FAMILIES.len() {
        count += FAMILIES[family].len();
        family += 1;
    }
    count
};

/// A set of clauses.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq)]
pub struct ClauseSet(u128);

const _: () = assert!(COUNT <= u128::BITS as usize, "a set of clauses has a bit for each");

impl ClauseSet {
    /// Adds the clause at this place of the catalogue.
    pub fn insert(&mut self, location: usize) {
        self.0 |= 1 << location;
    }

    /// The places of its clauses in the catalogue, in order.
    pub fn iter(self) -> impl Iterator<Item = usize> {
        let mut left = self.0;
        std::iter::from_fn(move || {
            let location = (left != 0).then_some(left.trailing_zeros() as usize)?;
            left &= left - 1;
            Some(location)
        })
    }
}

/// The place of a clause in the catalogue.
#[must_use]
pub fn index_of(name: &str) -> Option<usize> {
    catalogue().position(|clause| clause.name == name)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_set_holds_every_clause() {
        assert_eq!(catalogue().count(), COUNT);
        let mut set = ClauseSet::default();
        (0..COUNT).for_each(|location| set.insert(location));
        assert_eq!(set.iter().collect::<Vec<_>>(), (0..COUNT).collect::<Vec<_>>());
        assert_eq!(
            index_of("status.declared").map(|location| catalogue().nth(location).unwrap().name),
            Some("status.declared")
        );
    }
}
