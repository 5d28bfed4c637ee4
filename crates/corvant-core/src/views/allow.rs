//! Allowances: findings that somebody decided to accept.

use crate::audit::Accepted;
use crate::finding::Finding;
use crate::wiring::Wiring;
use foldhash::{HashMap, HashMapExt};

/// What became of each allowance, by number in the facts.
#[derive(Debug, Default)]
pub(crate) struct Allowed {
    /// What was accepted.
    pub(crate) accepted: Vec<Accepted>,
    /// Whether it accepted anything.
    pub(crate) used: Vec<bool>,
    /// Whether its last day has passed.
    pub(crate) expired: Vec<bool>,
}

impl Allowed {
    /// Takes accepted findings out of the list. An allowance whose last day has passed accepts nothing.
    pub(crate) fn apply(wiring: &Wiring, findings: &mut Vec<Finding>, today: Option<&str>) -> Self {
        let allowances = &wiring.facts.allowances;
        // Days are written year first, so that their texts are in order.
        let has_passed = |until: &str| today.is_some_and(|today| until < today);
        let is_off = |rule: &str| wiring.policy.severities.get(rule) == Some(&None);
        let mut allowed = Self {
            accepted: Vec::new(),
            // What a rule that does not run would have found is not known.
            used: allowances.iter().map(|allowance| is_off(wiring.text(allowance.rule.name))).collect(),
            expired: allowances
                .iter()
                .map(|allowance| allowance.until.is_some_and(|until| has_passed(wiring.text(until.name))))
                .collect(),
        };
        let mut by_subject: HashMap<(&str, &str), Vec<usize>> = HashMap::new();
        for (number, allowance) in allowances.iter().enumerate() {
            let key = (wiring.text(allowance.rule.name), wiring.text(allowance.subject.name));
            by_subject.entry(key).or_default().push(number);
        }
        for finding in std::mem::take(findings) {
            let numbers = by_subject.get(&(finding.rule.name, finding.subject.as_str()));
            let mut by = None;
            for &number in numbers.into_iter().flatten() {
                // One that has expired is stale for that, not for finding nothing.
                allowed.used[number] = true;
                by = by.or((!allowed.expired[number]).then_some(number));
            }
            match by {
                Some(allowance) => allowed.accepted.push(Accepted { finding, allowance }),
                None => findings.push(finding),
            }
        }
        allowed
    }
}
