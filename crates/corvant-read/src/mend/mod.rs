//! Making fixes: which edits are made, held against an audit of the edited texts before anything is written.
//!
//! [`mend`] makes fixes in texts in memory, in rounds: all that do not overlap at once. Each has to take its finding away
//! and to bring no other; where a round brings one, the fixes of the round are tried by halves until the one that does is
//! known, and that is left out. What overlapped comes in the next round, and so does what only now can be known.

mod pick;
mod trial;

use crate::edit::{self, EditedFile};
use corvant_core::audit::Report;
use corvant_core::finding::{Certainty, RuleText};
use corvant_core::source::Source;
use corvant_core::wiring::Wiring;
use foldhash::HashMap;
use pick::Pick;
use std::collections::BTreeMap;
use trial::Trial;

/// Texts that files have instead of what is on disk, by their paths from the root; without byte-order marks.
pub type Texts = HashMap<String, Source>;

/// Which fixes are made.
#[derive(Clone, Debug)]
pub struct Wanted<'a> {
    /// How sure they have to be at least.
    pub certainty: Certainty,
    /// Of findings of these rules alone; empty: of all.
    pub rules: &'a [&'static str],
    /// Of findings about these alone; empty: about all.
    pub subjects: &'a [String],
    /// At most so many.
    pub limit: Option<usize>,
}

/// A fix that was made, or was not.
#[derive(Clone, PartialEq, Eq, Debug)]
pub struct Told {
    /// The rule of its finding.
    pub rule: &'static RuleText,
    /// What the finding is about.
    pub subject: String,
    /// What the fix does.
    pub title: String,
    /// How sure it is.
    pub certainty: Certainty,
    /// The file of the first place of the finding.
    pub file: String,
    /// The line there, from 1, as it was before.
    pub line: u32,
}

/// Why a fix was left out.
#[derive(Clone, PartialEq, Eq, Debug)]
pub enum Why {
    /// The finding is still there after it.
    StillThere,
    /// Another comes that was not there.
    Brings {
        /// The rule of that.
        rule: &'static str,
        /// What that is about.
        subject: String,
    },
    /// The workspace cannot be read after it.
    Unreadable(String),
    /// A file that it would edit is not to be edited.
    Refused {
        /// The file.
        file: String,
        /// Why.
        why: String,
    },
    /// So many did not do that it was not tried.
    NotTried,
}

/// What came of it.
#[derive(Debug)]
pub struct Mended {
    /// By path what each file that was edited said and says.
    pub texts: BTreeMap<String, EditedFile>,
    /// The fixes that were made, in the order in which they were.
    pub made: Vec<Told>,
    /// Those that were left out.
    pub left_out: Vec<(Told, Why)>,
    /// What an audit finds after them.
    pub wiring: Wiring,
    /// The same.
    pub report: Report,
}

/// Makes fixes. `look` audits the workspace with some texts in place of what is on disk; `refuse` says why a file, by its
/// path from the root, is not to be edited.
///
/// # Errors
///
/// What `look` says of the workspace as it is.
pub fn mend<E: ToString>(
    look: impl Fn(&Texts) -> Result<(Wiring, Report), E>,
    refuse: impl Fn(&str) -> Option<String>,
    wanted: &Wanted<'_>,
) -> Result<Mended, E> {
    let mut refused: HashMap<String, Option<String>> = HashMap::default();
    let look = |texts: &Texts| {
        let (wiring, mut report) = look(texts)?;
        edit::spell_out(&mut report.findings, &wiring);
        Ok((wiring, report))
    };
    let (mut wiring, mut report) = look(&Texts::default())?;
    let mut texts: BTreeMap<String, EditedFile> = BTreeMap::new();
    let mut made: Vec<Told> = Vec::new();
    let mut audits = trial::AUDITS;
    loop {
        let most = wanted.limit.map_or(usize::MAX, |limit| limit - made.len());
        let mut refuse = |path: &str| match refused.get(path) {
            Some(known) => known.clone(),
            None => refused.entry(path.to_owned()).or_insert_with(|| refuse(path)).clone(),
        };
        let (picks, unwritable) = pick::picks(&wiring, &report, &mut refuse, wanted, most);
        let trial = Trial::new(&look, &wiring, &report, &texts);
        let (taken, left_out) = trial.run(&picks, &mut audits);
        let told = |pick: &Pick<'_>| pick.told(&wiring);
        let left_out = unwritable.iter().map(|(pick, why)| (pick, why.clone())).chain(left_out);
        let left_out = left_out.map(|(pick, why)| (told(pick), why)).collect();
        let Some(taken) = taken else {
            return Ok(Mended { texts, made, left_out, wiring, report });
        };
        made.extend(taken.picks.iter().map(told));
        for (path, file) in taken.edited {
            let after = file.after.clone();
            texts.entry(path).or_insert(file).after = after;
        }
        (wiring, report) = taken.after;
        if wanted.limit == Some(made.len()) {
            return Ok(Mended { texts, made, left_out: Vec::new(), wiring, report });
        }
    }
}

#[cfg(test)]
mod tests;
