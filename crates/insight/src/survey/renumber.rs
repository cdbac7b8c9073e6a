//! Gives the recordings of a part the places that they have in the whole.

use std::collections::BTreeSet;

use super::facts::{EndpointFacts, RecordingPlaces};
use super::survey_data::SurveyData;
use super::tree::PathNode;
use faithful_clerk_recording::Unreadable;

impl SurveyData {
    /// Changes every address; `None` where one is in a recording without a place.
    pub(super) fn renumber(&mut self, places: &RecordingPlaces) -> Option<()> {
        self.declared.values_mut().try_for_each(|facts| facts.renumber(places))?;
        self.origins.values_mut().try_for_each(|node| node.renumber(places))?;
        self.groups.values_mut().try_for_each(|group| group.seen.renumber(places))?;
        self.many.values_mut().try_for_each(|group| group.seen.renumber(places))?;
        self.disclosed.values_mut().try_for_each(|seen| seen.renumber(places))?;
        self.inside.renumber(places)?;
        self.naming.renumber(places)?;
        let unreadable = std::mem::take(&mut self.unreadable.first).into_iter().map(|one| {
            let recording = *places.get(usize::try_from(one.recording).ok()?)?;
            Some(Unreadable { recording, ..one })
        });
        self.unreadable.first = unreadable.collect::<Option<BTreeSet<_>>>()?;
        Some(())
    }
}

impl EndpointFacts {
    fn renumber(&mut self, places: &RecordingPlaces) -> Option<()> {
        self.rows.values_mut().try_for_each(|kind| kind.seen.renumber(places))
    }
}

impl PathNode {
    fn renumber(&mut self, places: &RecordingPlaces) -> Option<()> {
        self.here.values_mut().try_for_each(|facts| facts.renumber(places))?;
        self.names.values_mut().try_for_each(|node| node.renumber(places))?;
        match &mut self.values {
            Some(values) => values.node.renumber(places),
            None => Some(()),
        }
    }
}
