//! Who offers a contract, itself or through what is around or inside it.

use super::context::Context;
use crate::name::Name;
use crate::resolve::Offer;
use crate::wiring::ServiceIndex;
use foldhash::HashSet;

/// What is handed out for a contract: who carries it, or is chosen for it, offers it if this is what stands in
/// for it. A wrapper offers what it wraps, and what is wrapped is not less for its wrapper.
pub(super) fn offering(context: &Context<'_>, contract: Name) -> HashSet<ServiceIndex> {
    let offers = context.resolution.offers(context.wiring, contract, None);
    offers.all().map(|offer| offer.service).collect()
}

/// By what is handed out for a contract the innermost definition that offers it.
pub(super) fn innermost_offers(context: &Context<'_>, contract: Name) -> Vec<Offer> {
    let offers = context.resolution.offers(context.wiring, contract, None);
    let ids = &context.resolution.ids;
    let is_inside = |inner: ServiceIndex, outer: ServiceIndex| {
        std::iter::successors(ids.inside(outer), |&at| ids.inside(at)).any(|inside| inside == inner)
    };
    let mut innermost: Vec<Offer> = offers.all().collect();
    innermost.sort_unstable();
    innermost.dedup_by(|next, kept| {
        let is_same = next.service == kept.service;
        if is_same && is_inside(next.by, kept.by) {
            kept.by = next.by;
        }
        is_same
    });
    innermost
}
