//! Who offers a contract, itself or through a narrower one.

use super::Context;
use crate::name::Name;
use crate::wiring::ServiceIndex;
use foldhash::HashSet;

/// All services that offer a contract or one that extends it, and those whose place they take: a wrapper
/// offers what it wraps, and what is wrapped is not less for it.
pub(crate) fn offering(context: &Context<'_>, contract: Name) -> HashSet<ServiceIndex> {
    let candidates = context.resolution.candidates(context.wiring, contract);
    let with_inner = |outer: ServiceIndex| {
        std::iter::successors(Some(outer), |&wrapper| context.resolution.ids.wrapped(wrapper))
    };
    candidates.into_iter().flat_map(with_inner).collect()
}
