//! Numbers that look like chance and are the same for the same seed (SplitMix64).

#[derive(Debug, Clone)]
pub(crate) struct Chance(u64);

impl Chance {
    pub(crate) fn new(seed: u64) -> Self {
        Self(seed)
    }

    pub(crate) fn next(&mut self) -> u64 {
        self.0 = self.0.wrapping_add(0x9E37_79B9_7F4A_7C15);
        let mut mixed = self.0;
        mixed = (mixed ^ (mixed >> 30)).wrapping_mul(0xBF58_476D_1CE4_E5B9);
        mixed = (mixed ^ (mixed >> 27)).wrapping_mul(0x94D0_49BB_1331_11EB);
        mixed ^ (mixed >> 31)
    }

    /// A number below `bound`.
    pub(crate) fn below(&mut self, bound: u64) -> u64 {
        self.next() % bound.max(1)
    }

    /// One of several.
    pub(crate) fn of<'a, T>(&mut self, all: &'a [T]) -> &'a T {
        let at = usize::try_from(self.below(all.len() as u64)).unwrap_or_default();
        &all[at]
    }
}
