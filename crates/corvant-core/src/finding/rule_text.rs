//! What rules say: all that people and other tools are told of a rule, without what it does.

use super::{Certainty, Severity};
use crate::word::words;

/// What is checked, and why.
#[derive(Debug)]
pub struct RuleText {
    /// Its name, which says the fault.
    pub name: &'static str,
    /// Its family.
    pub family: Family,
    /// How bad its findings are, unless the workspace says otherwise.
    pub severity: Severity,
    /// What it finds, on one line.
    pub summary: &'static str,
    /// Why that matters.
    pub why: &'static str,
    /// What it does not report, and why.
    pub limits: &'static str,
    /// How sure the surest edit is that it may know for a finding; advice: it knows words only.
    pub fixes: Certainty,
    /// A small wiring that shows the fault: files under `//- path` headers.
    pub faulty: &'static str,
    /// The same wiring, corrected.
    pub corrected: &'static str,
    /// What part of an audit it looks at.
    pub scope: Scope,
}

impl RuleText {
    /// Whether its findings may hold in some stages and not in others.
    pub fn is_staged(&self) -> bool {
        matches!(self.scope, Scope::Stage | Scope::WholeStage)
    }

    /// Whether its subjects are files or paths inside them.
    pub fn is_about_files(&self) -> bool {
        self.scope == Scope::Files
    }
}

impl PartialEq for RuleText {
    fn eq(&self, other: &Self) -> bool {
        self.name == other.name
    }
}

impl Eq for RuleText {}

/// What part of an audit a rule looks at.
#[derive(Clone, Copy, PartialEq, Eq, Debug)]
pub enum Scope {
    /// The files themselves: once.
    Files,
    /// The wiring of one stage, item by item: for each stage what is not as with none chosen.
    Stage,
    /// The wiring of one stage as a whole: once for each.
    WholeStage,
    /// What holds in all stages together: once, after them.
    Workspace,
    /// What allowances accepted: once, at the end.
    Allowances,
}

words! {
    /// Families of rules.
    Family {
        /// What is wrong with files.
        Reading "reading"
        /// What is needed and not found.
        Missing "missing"
        /// What runs in a circle.
        Cycles "cycles"
        /// What nothing needs.
        Unused "unused"
        /// What is wrong with tags.
        Tags "tags"
        /// What several claim.
        Ambiguity "ambiguity"
        /// What lives too short for who holds it.
        Lifetimes "lifetimes"
        /// What start-up code registers, and when.
        Providers "providers"
        /// What modules keep to themselves.
        Boundaries "boundaries"
        /// What does not fit the types that code declares.
        Types "types"
        /// What is found at run time instead of declared.
        LookUps "look_ups"
        /// What somebody said must hold.
        Expectations "expectations"
    }
}
