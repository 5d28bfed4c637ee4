//! What definitions say otherwise than before.

use super::described::{Aspect, Definition, Described, Describer, Value, amended, definitions, same_files};
use crate::answers::Kind;
use crate::source::Place;
use crate::wiring::Wiring;
use foldhash::{HashMap, HashSet};
use rayon::prelude::*;
use std::collections::BTreeSet;

/// What became of a definition.
#[derive(Clone, PartialEq, Eq, Debug)]
pub enum Turn {
    /// It was not there before.
    New,
    /// It is there no more.
    Gone,
    /// It was called otherwise.
    Renamed {
        /// What it was called.
        from: String,
    },
    /// It says something else.
    Changed,
}

/// A definition that is another than before.
#[derive(Clone, PartialEq, Eq, Debug)]
pub struct DefinitionChange {
    /// What it is.
    pub kind: Kind,
    /// What it is called.
    pub name: String,
    /// What became of it.
    pub turn: Turn,
    /// The module that defines it, or did.
    pub module: String,
    /// Where it was defined before.
    pub before: Option<Place>,
    /// Where it is defined.
    pub after: Option<Place>,
    /// What it says otherwise; of what is new or gone all that it says.
    pub parts: Vec<PartChange>,
}

/// What a part of a definition said, and says.
#[derive(Clone, PartialEq, Eq, Debug)]
pub struct PartChange {
    /// What it is about.
    pub aspect: Aspect,
    /// Which of several: a slot, a tag, a contract, a stage.
    pub item: String,
    /// What it said; `None`: nothing.
    pub before: Option<Value>,
    /// What it says; `None`: nothing.
    pub after: Option<Value>,
    /// Where that was written, and is.
    pub places: (Option<Place>, Option<Place>),
}

/// A definition that stands on one side alone.
struct Alone {
    kind: Kind,
    name: String,
    described: Described,
}

/// All definitions that are another in a wiring than in an older one.
pub(super) fn changes(old: &Wiring, new: &Wiring) -> Vec<DefinitionChange> {
    let (same_before, same_after) = (same_files(old, new), same_files(new, old));
    let amended: HashSet<&str> = amended(old).chain(amended(new)).collect();
    let (before, after) =
        rayon::join(|| definitions(old, &same_before, &amended), || definitions(new, &same_after, &amended));
    let (describe_old, describe_new) = (Describer::new(old), Describer::new(new));
    let names: BTreeSet<&(Kind, &str)> = before.keys().chain(after.keys()).collect();
    let names: Vec<&(Kind, &str)> = names.into_iter().collect();
    let of = |all: &[Definition], describer: &Describer<'_>| {
        let mut all: Vec<Described> = all.iter().map(|&one| describer.describe(one)).collect();
        let key = |one: &Described| {
            let own = |aspect| one.value(aspect).cloned();
            (own(Aspect::Module), own(Aspect::File))
        };
        all.sort_by_key(key);
        all
    };
    let pairs: Vec<(Vec<DefinitionChange>, Vec<Alone>, Vec<Alone>)> = names
        .par_iter()
        .map(|&&(kind, name)| {
            let there = |all: Option<&Vec<Definition>>, describer: &Describer<'_>| {
                all.map_or_else(Vec::new, |all| of(all, describer))
            };
            let one = there(before.get(&(kind, name)), &describe_old);
            let other = there(after.get(&(kind, name)), &describe_new);
            pair(kind, name, one, other)
        })
        .collect();
    let (mut changes, mut gone, mut come) = (Vec::new(), Vec::new(), Vec::new());
    for (changed, was, is) in pairs {
        changes.extend(changed);
        gone.extend(was);
        come.extend(is);
    }
    changes.extend(renamed(&mut gone, &mut come));
    changes.extend(gone.into_iter().map(|was| {
        let Alone { kind, name, described } = was;
        change(kind, name, Turn::Gone, Some(&described), None)
    }));
    changes.extend(come.into_iter().map(|is| {
        let Alone { kind, name, described } = is;
        change(kind, name, Turn::New, None, Some(&described))
    }));
    changes.sort_by(|one, other| {
        let is_there = (one.after.is_some(), other.after.is_some());
        (one.kind, &one.name, is_there.0).cmp(&(other.kind, &other.name, is_there.1))
    });
    changes
}

/// Holds the definitions of one name against one another: those that say the same first, then in their order.
fn pair(
    kind: Kind,
    name: &str,
    mut before: Vec<Described>,
    mut after: Vec<Described>,
) -> (Vec<DefinitionChange>, Vec<Alone>, Vec<Alone>) {
    before.retain(|was| {
        let same = after.iter().position(|is| was.values().eq(is.values()));
        same.map(|at| after.remove(at)).is_none()
    });
    let mut changed = Vec::new();
    while !before.is_empty() && !after.is_empty() {
        let (was, is) = (before.remove(0), after.remove(0));
        changed.push(change(kind, name.to_owned(), Turn::Changed, Some(&was), Some(&is)));
    }
    let alone = |all: Vec<Described>| -> Vec<Alone> {
        all.into_iter().map(|described| Alone { kind, name: name.to_owned(), described }).collect()
    };
    (changed, alone(before), alone(after))
}

/// What a definition says.
type Likeness = Vec<(Aspect, String, Value)>;

/// What makes a definition known under another name: all that it says but for where; `None`: it says too little.
fn likeness(alone: &Alone) -> Option<Likeness> {
    let says_enough = |aspect: Aspect| matches!(aspect, Aspect::Type | Aspect::Need | Aspect::Offers);
    let own = |aspect: Aspect| !matches!(aspect, Aspect::Module | Aspect::File);
    let parts = alone.described.values().filter(|((aspect, _), _)| own(*aspect));
    let parts: Likeness =
        parts.map(|((aspect, item), value)| (*aspect, item.clone(), value.clone())).collect();
    let says_enough = parts.iter().any(|(aspect, ..)| says_enough(*aspect));
    (alone.kind == Kind::Service && says_enough).then_some(parts)
}

/// Takes out what is gone under one name and new under another, if there is one such pair only.
fn renamed(gone: &mut Vec<Alone>, come: &mut Vec<Alone>) -> Vec<DefinitionChange> {
    let by_likeness = |all: &[Alone]| {
        let mut alike: HashMap<Likeness, Vec<usize>> = HashMap::default();
        for (number, alone) in all.iter().enumerate() {
            if let Some(parts) = likeness(alone) {
                alike.entry(parts).or_default().push(number);
            }
        }
        alike
    };
    let (was, is) = (by_likeness(gone), by_likeness(come));
    let mut pairs: Vec<(usize, usize)> = was
        .iter()
        .filter_map(|(parts, was)| match (was.as_slice(), is.get(parts)?.as_slice()) {
            (&[was], &[is]) => Some((was, is)),
            _ => None,
        })
        .collect();
    pairs.sort_unstable();
    let changes = pairs.iter().map(|&(was, is)| {
        let (was, is) = (&gone[was], &come[is]);
        let turn = Turn::Renamed { from: was.name.clone() };
        change(is.kind, is.name.clone(), turn, Some(&was.described), Some(&is.described))
    });
    let changes = changes.collect();
    let left = |all: &mut Vec<Alone>, taken: BTreeSet<usize>| {
        let mut number = 0;
        all.retain(|_| {
            number += 1;
            !taken.contains(&(number - 1))
        });
    };
    left(gone, pairs.iter().map(|pair| pair.0).collect());
    left(come, pairs.iter().map(|pair| pair.1).collect());
    changes
}

fn change(
    kind: Kind,
    name: String,
    turn: Turn,
    before: Option<&Described>,
    after: Option<&Described>,
) -> DefinitionChange {
    let keys: BTreeSet<&(Aspect, String)> =
        before.into_iter().chain(after).flat_map(|described| described.parts.keys()).collect();
    let place = |described: Option<&Described>, role: &str| {
        described.map(|described| Place::new(described.source, described.span, role))
    };
    let part = |key: &(Aspect, String)| {
        let of =
            |described: Option<&Described>| described.and_then(|described| described.parts.get(key).cloned());
        let (was, is) = (of(before), of(after));
        let value = |part: &Option<(Value, _)>| part.as_ref().map(|(value, _)| value.clone());
        let at = |part: Option<(Value, Option<(_, _)>)>, role: &str| {
            part.and_then(|(_, place)| place).map(|(source, span)| Place::new(source, span, role))
        };
        let (said, says) = (value(&was), value(&is));
        (said != says).then(|| PartChange {
            aspect: key.0,
            item: key.1.clone(),
            before: said,
            after: says,
            places: (at(was, "before"), at(is, "now")),
        })
    };
    let module = after.or(before).and_then(|described| described.value(Aspect::Module));
    let module = match module {
        Some(Value::Name(module)) => module.clone(),
        _ => name.clone(),
    };
    DefinitionChange {
        kind,
        name,
        turn,
        module,
        before: place(before, "before"),
        after: place(after, "now"),
        parts: keys.into_iter().filter_map(part).collect(),
    }
}
