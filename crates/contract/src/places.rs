//! Where a request leads: below which server, into which region, to which endpoints.

use std::borrow::Cow;

use crate::model::{Endpoint, EndpointId, ErrorContract, FaultId, TrailingSlash};
use crate::region::{ErrorStyle, Region, RegionId};
use crate::rules::Rules;
use crate::servers::{RequestPath, Server};

impl ErrorContract {
    /// The region at that place.
    #[must_use]
    pub fn region(&self, id: Option<RegionId>) -> Option<&Region> {
        self.regions.get(id?.0)
    }

    /// How errors look in a region, or outside all of them.
    #[must_use]
    pub fn style(&self, region: Option<RegionId>) -> &ErrorStyle {
        self.region(region).map_or(&self.style, |region| &region.style)
    }

    /// The styles that there are: outside all regions, and in each.
    pub fn styles(&self) -> impl Iterator<Item = (Option<RegionId>, &ErrorStyle)> {
        let regions = self.regions.iter().enumerate();
        let regions = regions.map(|(at, region)| (Some(RegionId(at)), &region.style));
        std::iter::once((None, &self.style)).chain(regions)
    }

    /// The region that a path lies in: of several, the one with the longest pattern.
    #[must_use]
    pub fn region_of(&self, path: &[impl AsRef<str>]) -> Option<RegionId> {
        let regions = self.regions.iter().enumerate();
        let fits = |(at, region): (usize, &Region)| {
            Some((region.fits(path, self.paths.case_sensitivity)?, std::cmp::Reverse(at)))
        };
        regions.filter_map(fits).max().map(|(_, at)| RegionId(at.0))
    }

    /// The regions that a fault can come in; where there is none, and there alone, only outside all of them.
    #[must_use]
    pub fn regions_of_fault(&self, id: FaultId) -> Vec<Option<RegionId>> {
        let has = |rules: &Rules| rules.faults.contains(&id);
        let here = |region: &Option<RegionId>| {
            let mut endpoints = self.endpoints.iter().filter(|one| has(&one.rules));
            has(self.rules_at(None, *region))
                || endpoints.any(|endpoint| self.region_of_endpoint(endpoint) == *region)
        };
        let found: Vec<_> = self.styles().map(|(region, _)| region).filter(here).collect();
        if found.is_empty() { vec![None] } else { found }
    }

    /// The regions that an endpoint lies in, the nearest first.
    #[must_use]
    pub fn regions_around(&self, endpoint: &Endpoint) -> Vec<&Region> {
        let fits = |region: &&Region| region.fits(&endpoint.steps(), self.paths.case_sensitivity);
        let mut found: Vec<_> =
            self.regions.iter().filter_map(|region| Some((fits(&region)?, region))).collect();
        found.sort_by_key(|(length, _)| std::cmp::Reverse(*length));
        found.into_iter().map(|(_, region)| region).collect()
    }

    /// The region that an endpoint lies in.
    #[must_use]
    pub fn region_of_endpoint(&self, endpoint: &Endpoint) -> Option<RegionId> {
        if self.regions.is_empty() {
            return None;
        }
        self.region_of(&endpoint.steps())
    }

    /// The path of a recorded URL below the service's base; `None` where it is none of the service's,
    /// or excluded.
    #[must_use]
    pub fn request_path<'u>(&self, method: &str, url: &'u str) -> Option<RequestPath<'u>> {
        let target = self.below_servers(url)?;
        let paths = &self.paths;
        let host = |aside: &String| aside.eq_ignore_ascii_case(target.host());
        let is_aside = paths.excluded_methods.iter().any(|aside| aside == method)
            || paths.excluded_hosts.iter().any(host)
            || paths.excluded.find(self.segments(&target)).is_some();
        (!is_aside).then_some(target)
    }

    /// All base URLs: of the service, and of regions that have their own.
    pub fn all_servers(&self) -> impl Iterator<Item = &Server> {
        self.servers.iter().chain(self.regions.iter().flat_map(|region| &region.servers))
    }

    /// Adds a base URL, wherever the service is asked.
    pub fn add_server(&mut self, server: &Server) {
        let of_regions = self.regions.iter_mut().map(|region| &mut region.servers);
        of_regions.filter(|own| !own.is_empty()).for_each(|own| own.push(server.clone()));
        self.servers.push(server.clone());
    }

    /// The first base URL of the service, or of the region that a target lies in.
    #[must_use]
    pub fn base_of(&self, target: &str) -> Option<&Server> {
        let path = target.split('?').next().unwrap_or_default();
        let path: Vec<&str> = path.trim_start_matches('/').split('/').collect();
        let region = self.region(self.region_of(&path));
        let own = region.and_then(|region| region.servers.first());
        own.or(self.servers.first())
    }

    /// The path below the servers of the service; in a region with servers of its own, below those.
    fn below_servers<'u>(&self, url: &'u str) -> Option<RequestPath<'u>> {
        for (at, region) in self.regions.iter().enumerate() {
            if !region.servers.is_empty()
                && let Some(target) = RequestPath::read(url, &region.servers)
                && self.region_of(self.segments(&target)) == Some(RegionId(at))
            {
                return Some(target);
            }
        }
        let Some(target) = RequestPath::read(url, &self.servers) else {
            let own = Some(&self.endpoint_servers).filter(|own| !own.is_empty())?;
            return RequestPath::read(url, own).filter(|target| self.route(target).is_some());
        };
        let is_elsewhere = |region: &Region| {
            // A URL without a host may be on any server.
            !region.servers.is_empty() && !target.host().is_empty()
        };
        let region = self.region(self.region_of(self.segments(&target)));
        (!region.is_some_and(is_elsewhere)).then_some(target)
    }

    /// The segments of a path, as templates see them.
    #[must_use]
    pub fn segments<'t, 'u>(&self, target: &'t RequestPath<'u>) -> &'t [Cow<'u, str>] {
        target.segments(self.paths.trailing_slash == TrailingSlash::Ignored)
    }

    /// Does the path have an endpoint but for a slash at its end, so that it is redirected there?
    #[must_use]
    pub fn is_redirected(&self, target: &RequestPath<'_>) -> bool {
        if self.paths.trailing_slash != TrailingSlash::Redirected || self.route(target).is_some() {
            return false;
        }
        let segments = self.segments(target);
        let other: Vec<&str> = match segments.split_last() {
            Some((last, before)) if last.is_empty() => before.iter().map(AsRef::as_ref).collect(),
            _ => segments.iter().map(AsRef::as_ref).chain([""]).collect(),
        };
        self.router.find(&other).is_some()
    }

    /// Finds the endpoints of a path.
    #[must_use]
    pub fn route(&self, target: &RequestPath<'_>) -> Option<&[EndpointId]> {
        self.router.find(self.segments(target))
    }
}
