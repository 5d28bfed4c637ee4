//! In which stages items count, by the conditions around them.

use super::around::Condition;
use super::asked::When;

/// In which stages an item counts.
#[derive(Debug, Default, PartialEq, Eq)]
pub(super) struct Staged {
    pub(super) stages: Option<String>,
    pub(super) except: Option<String>,
    pub(super) is_maybe: bool,
}

impl Staged {
    /// By the conditions around it, from the inside out; `None`: it never counts.
    pub(super) fn of(conditions: &[Condition], when: &When) -> Option<Self> {
        let mut staged: Option<Self> = None;
        for condition in conditions {
            match (condition.text.as_str(), condition.is_not) {
                ("true" | "True", false) | ("false" | "False", true) => continue,
                ("true" | "True", true) | ("false" | "False", false) => return None,
                _ => {}
            }
            let known = when.stages.iter().find(|(text, ..)| *text == condition.text);
            let own = match (known, condition.is_not) {
                (None, _) => Self { is_maybe: true, ..Self::default() },
                (Some((_, then, _)), false) => Self { stages: Some(then.clone()), ..Self::default() },
                (Some((_, _, Some(other))), true) => Self { stages: Some(other.clone()), ..Self::default() },
                (Some((_, then, None)), true) => Self { except: Some(then.clone()), ..Self::default() },
            };
            staged = Some(match staged {
                None => own,
                Some(known) if known == own => known,
                // Of what holds in part of a stage nobody can say more.
                Some(_) => Self { is_maybe: true, ..Self::default() },
            });
        }
        Some(staged.unwrap_or_default())
    }
}
