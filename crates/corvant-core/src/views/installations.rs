//! What is installed where: what requires something finds it in its own installation, or in one around that.

use crate::facts::{InstalledKind, ListedType, Requirement, TroubleKind};
use crate::name::Name;
use crate::wiring::Wiring;
use foldhash::{HashMap, HashSet};

/// What is in each installation.
pub(crate) struct Installations<'a> {
    wiring: &'a Wiring,
    there: HashSet<(InstalledKind, Name, Name)>,
    types: HashSet<(Name, Name)>,
    /// Types and packages that are in no package, by their texts.
    tops: HashMap<&'a str, Name>,
    /// Places by their texts, which are paths.
    places: HashMap<&'a str, Name>,
    /// Folders below which something could not be read.
    unread: HashSet<&'a str>,
}

impl<'a> Installations<'a> {
    pub(crate) fn new(wiring: &'a Wiring) -> Self {
        let facts = &wiring.facts;
        let there = facts.installed.iter().map(|one| (one.kind, one.place, one.name)).collect();
        let types = facts.types.iter().map(|listed| (listed.place, listed.name)).collect();
        let names = facts.types.iter().map(|listed| (wiring.text(listed.name), listed.name));
        let tops = names.filter(|(text, _)| !text.contains('.')).collect();
        let installed = facts.installed.iter().map(|one| one.place);
        let places = installed.chain(facts.types.iter().map(|listed| listed.place));
        let places = places.map(|place| (wiring.text(place), place)).collect();
        let unread = facts.troubles.iter().filter(|trouble| trouble.kind == TroubleKind::Unreadable);
        let unread = unread.flat_map(|trouble| folders_above(wiring.path(trouble.source))).collect();
        Self { wiring, there, types, tops, places, unread }
    }

    /// A place and those around it, from the inside out.
    fn around(&self, place: Name) -> impl Iterator<Item = Name> {
        let paths = folders_above(self.wiring.text(place));
        [place].into_iter().chain(paths.filter_map(|path| self.places.get(path).copied()))
    }

    /// Whether what is required is there.
    pub(crate) fn meets(&self, requirement: &Requirement) -> bool {
        let Requirement { kind, name, place, .. } = *requirement;
        self.around(place).any(|place| self.there.contains(&(kind, place, name.name)))
    }

    /// Whether a type is listed for a place.
    pub(crate) fn lists(&self, place: Name, name: Name) -> bool {
        self.around(place).any(|place| self.types.contains(&(place, name)))
    }

    /// Whether anything is listed for a place of the package that a type is below of all.
    pub(crate) fn lists_any_beside(&self, place: Name, type_name: &str) -> bool {
        let top = type_name.split('.').next().unwrap_or(type_name);
        self.tops.get(top).is_some_and(|&top| self.lists(place, top))
    }

    /// Whether something in a place could not be read, so that nobody knows what is there.
    pub(crate) fn hides_something(&self, place: Name) -> bool {
        self.unread.contains(self.wiring.text(place))
    }

    /// The places that list some types, by type.
    pub(crate) fn listings(&self, wanted: &HashSet<Name>) -> HashMap<Name, Vec<&'a ListedType>> {
        let mut listings: HashMap<Name, Vec<&ListedType>> = HashMap::default();
        for listed in self.wiring.facts.types.iter().filter(|listed| wanted.contains(&listed.name)) {
            listings.entry(listed.name).or_default().push(listed);
        }
        listings
    }
}

/// The folders above a path, from the inside out; the last is the root.
fn folders_above(path: &str) -> impl Iterator<Item = &str> {
    std::iter::successors(above(path), |path| above(path)).chain(["."])
}

fn above(path: &str) -> Option<&str> {
    path.rsplit_once('/').map(|(above, _)| above)
}
