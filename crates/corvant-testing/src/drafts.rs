//! How far a drafted reader sees what a hand-written one does.

use corvant_core::facts::{Need, Target};
use corvant_core::wiring::Wiring;
use corvant_read::workspace::{self, WorkspaceError};
use std::collections::BTreeSet;

/// What two readers take of the same files.
#[derive(Debug, Default, Clone, Copy)]
pub struct Agreement {
    /// Ids of services and entries: how many of those that the hand-written reader takes the draft takes too, and how many
    /// there are.
    pub ids: (usize, usize),
    /// Needs, by who needs what.
    pub needs: (usize, usize),
    /// Settings.
    pub settings: (usize, usize),
    /// Needs that only the draft takes, of all that it takes.
    pub wrong: (usize, usize),
}

impl Agreement {
    /// Together with another.
    #[must_use]
    pub fn and(self, other: Self) -> Self {
        let both = |one: (usize, usize), other: (usize, usize)| (one.0 + other.0, one.1 + other.1);
        Self {
            ids: both(self.ids, other.ids),
            needs: both(self.needs, other.needs),
            settings: both(self.settings, other.settings),
            wrong: both(self.wrong, other.wrong),
        }
    }
}

/// A share in percent; of nothing all.
pub fn percent((part, all): (usize, usize)) -> f64 {
    if all == 0 { 100.0 } else { part as f64 * 100.0 / all as f64 }
}

/// Holds what a draft takes of files against what a hand-written reader does. Both are texts of workspace files.
///
/// # Errors
///
/// If one of the two cannot be read.
pub fn agreement(
    files: &[(String, String)],
    written: &str,
    draft: &str,
) -> Result<Agreement, WorkspaceError> {
    Ok(Taken::of(files, written)?.agreement(&Taken::of(files, draft)?))
}

/// Holds what a draft takes of files against what others say in Corvant's own format.
///
/// # Errors
///
/// If one of the two cannot be read.
pub fn agreement_with(
    said: &[(String, String)],
    files: &[(String, String)],
    draft: &str,
) -> Result<Agreement, WorkspaceError> {
    Ok(Taken::of(said, "")?.agreement(&Taken::of(files, draft)?))
}

#[derive(Default)]
struct Taken {
    ids: BTreeSet<(String, String)>,
    needs: BTreeSet<(String, String)>,
    settings: BTreeSet<(String, String)>,
}

impl Taken {
    fn of(files: &[(String, String)], settings: &str) -> Result<Self, WorkspaceError> {
        let all = files.iter().map(|(path, text)| (path.as_str(), text.as_str()));
        let workspace = workspace::from_texts(all.chain([("corvant.toml", settings)]))?;
        Ok(Self::new(&workspace.link().0))
    }

    /// How far another goes with this.
    fn agreement(&self, draft: &Self) -> Agreement {
        let shared = |one: &BTreeSet<(String, String)>, other: &BTreeSet<(String, String)>| {
            (one.intersection(other).count(), one.len())
        };
        Agreement {
            ids: shared(&self.ids, &draft.ids),
            needs: shared(&self.needs, &draft.needs),
            settings: shared(&self.settings, &draft.settings),
            wrong: (draft.needs.difference(&self.needs).count(), draft.needs.len()),
        }
    }

    fn new(wiring: &Wiring) -> Self {
        let facts = &wiring.facts;
        let text = |name| wiring.text(name).to_owned();
        let mut taken = Self::default();
        for service in &facts.services {
            taken.ids.insert(("service".to_owned(), text(service.id.name)));
            for need in service.needs.of(&facts.parts) {
                taken.need(wiring, &text(service.id.name), need);
            }
        }
        for entry in &facts.entries {
            taken.ids.insert(("entry".to_owned(), text(entry.id.name)));
            for need in entry.needs.of(&facts.parts) {
                taken.need(wiring, &text(entry.id.name), need);
            }
        }
        taken
            .settings
            .extend(facts.settings.iter().map(|setting| ("setting".to_owned(), text(setting.setting.name))));
        taken
    }

    fn need(&mut self, wiring: &Wiring, holder: &str, need: &Need) {
        let target = match need.target {
            Target::Service(name) => format!("service {}", wiring.text(name)),
            Target::Contract(name) => format!("contract {}", wiring.text(name)),
            Target::All(name) => format!("all {}", wiring.text(name)),
            Target::Tag(name) => format!("tag {}", wiring.text(name)),
            Target::Setting(name) => format!("setting {}", wiring.text(name)),
            Target::Wrapped => return,
        };
        self.needs.insert((holder.to_owned(), target));
    }
}
