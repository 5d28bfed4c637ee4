//! Findings: what is wrong or suspect, and blind spots: what could not be seen.

mod fix;
mod reach;
mod rule_text;

pub use fix::{Action, Certainty, Change, Edit, Fix, Value};
pub use reach::{Origin, Reach};
pub use rule_text::{Family, RuleText, Scope};

use crate::name::Name;
use crate::source::{Place, SourceIndex, Span};
use crate::word::words;

words! {
    /// How bad a finding is.
    Severity {
        /// It will fail.
        Error "error"
        /// It is most likely not meant.
        Warning "warning"
        /// Worth knowing.
        Note "note"
    }
}

/// Where a finding holds that does not hold everywhere.
#[derive(Clone, PartialEq, Eq, Debug, Default)]
pub struct Holds {
    /// The stages, by name.
    pub stages: Vec<Name>,
    /// Whether it holds where no stage is chosen.
    pub none_chosen: bool,
}

/// One thing that is wrong or suspect.
#[derive(Clone, Debug)]
pub struct Finding {
    /// The rule that found it.
    pub rule: &'static RuleText,
    /// How bad it is; the rule's severity unless the rule says otherwise for this one.
    pub severity: Severity,
    /// What a person would search for; with the rule it identifies the finding.
    pub subject: String,
    /// What is wrong, as a sentence.
    pub message: String,
    /// Where; the first place is the one to go to.
    pub places: Vec<Place>,
    /// What can be done about it, likeliest first.
    pub fixes: Vec<Fix>,
    /// Where it holds; `None`: in every stage, and with none chosen if that is looked at.
    pub holds: Option<Holds>,
    /// What it affects, and when.
    pub reach: Reach,
    /// Where its effects begin; empty: it has none of its own at run time.
    pub(crate) origins: Vec<Origin>,
}

impl Finding {
    /// A finding of a rule about a subject.
    pub fn new(rule: &'static RuleText, subject: impl Into<String>, message: impl Into<String>) -> Self {
        Self {
            rule,
            severity: rule.severity,
            subject: subject.into(),
            message: message.into(),
            places: Vec::new(),
            fixes: Vec::new(),
            holds: None,
            reach: Reach::default(),
            origins: Vec::new(),
        }
    }

    /// Rule and subject: what tells it from others in one stage.
    pub(crate) fn key(&self) -> (&'static str, &str) {
        (self.rule.name, &self.subject)
    }

    /// Whether it holds in a stage; `None`: where none is chosen.
    pub fn holds_in(&self, stage: Option<Name>) -> bool {
        self.holds
            .as_ref()
            .is_none_or(|holds| stage.map_or(holds.none_chosen, |stage| holds.stages.contains(&stage)))
    }

    /// With one more place.
    #[must_use]
    pub fn at(mut self, source: SourceIndex, span: Span, role: impl Into<String>) -> Self {
        self.places.push(Place::new(source, span, role));
        self
    }

    /// With one more thing to do about it.
    #[must_use]
    pub fn fix(mut self, fix: Fix) -> Self {
        self.fixes.push(fix);
        self
    }

    /// With one more thing to do about it, in words.
    #[must_use]
    pub fn advice(self, title: impl Into<String>) -> Self {
        self.fix(Fix::advice(title))
    }

    /// With the nodes at which its effects begin.
    #[must_use]
    pub(crate) fn failing(mut self, origins: impl IntoIterator<Item = Origin>) -> Self {
        self.origins.extend(origins);
        self
    }

    /// A mark that stays the same when lines move: 16 hexadecimal digits over rule and subject, and over the
    /// file where the subject is a path inside one.
    ///
    /// G. Fowler, L. Noll and K.-P. Vo's FNV-1a (1991), 64 bits.
    pub fn fingerprint(&self, file: &str) -> String {
        let file = if self.rule.is_about_files() { file } else { "" };
        let bytes = [self.rule.name, self.subject.as_str(), file].map(str::as_bytes).join(&0);
        let hash = bytes.iter().fold(0xcbf2_9ce4_8422_2325_u64, |hash, &byte| {
            (hash ^ u64::from(byte)).wrapping_mul(0x0000_0100_0000_01b3)
        });
        format!("{hash:016x}")
    }
}

/// Something the audit could not see into, and says so.
#[derive(Clone, PartialEq, Eq, Debug)]
pub struct BlindSpot {
    /// What kind it is.
    pub kind: BlindSpotKind,
    /// What it is about: a file, a rule.
    pub subject: String,
    /// What could not be seen, and what follows.
    pub message: String,
    /// Where, if anywhere.
    pub places: Vec<Place>,
}

words! {
    /// Kinds of blind spots.
    BlindSpotKind {
        /// A file or folder that could not be read.
        UnreadableFile "unreadable-file"
        /// A module that the workspace disables.
        DisabledModule "disabled-module"
        /// A member of the workspace that no manifest belongs to.
        EmptyMember "empty-member"
        /// No entry is defined, so nothing can be told unused.
        NoEntries "no-entries"
        /// Providers are defined and no roster lists them.
        NoRoster "no-roster"
        /// Services are built by a factory, and nothing says what it needs for them.
        UndeclaredFactoryNeeds "undeclared-factory-needs"
        /// Services whose needs nobody can know.
        UnknownNeeds "unknown-needs"
        /// A lifetime that has no place in the order.
        UnorderedLifetime "unordered-lifetime"
        /// Names that are taken on trust: the host platform is said to bring them.
        Supplied "supplied"
        /// A contract that nothing offers but code may register.
        RegisteredByCode "registered-by-code"
        /// Types that constructors need and nobody declares or offers.
        TypesOutside "types-outside"
        /// Code of which not all types are known.
        DoubtfulCode "doubtful-code"
        /// Registrations under conditions that nobody can say.
        MaybeRegistered "maybe-registered"
        /// Registrations and look-ups under names that are known only once code runs.
        ComputedNames "computed-names"
        /// A custom reader that no file is for.
        IdleReader "idle-reader"
        /// An archive inside an archive.
        NestedArchive "nested-archive"
        /// An ignore file that was not read, and so hides nothing.
        UnreadIgnoreFile "unread-ignore-file"
        /// Files of the host, which count and are not judged.
        Trusted "trusted"
        /// A virtual environment that sees what is installed in the system too.
        OpenEnvironment "open-environment"
        /// Folders and manifests that ignore files, their names or the workspace file hide.
        Hidden "hidden"
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::rules::{missing, reading};

    #[test]
    fn fingerprints_follow_rule_and_subject() {
        let rule = &missing::missing_service::RULE.text;
        let print = |subject: &str, file: &str| Finding::new(rule, subject, "any message").fingerprint(file);
        assert_eq!(print("a.b", "one.wiring.yaml"), print("a.b", "two.wiring.yaml"));
        assert_ne!(print("a.b", "one.wiring.yaml"), print("a.c", "one.wiring.yaml"));
        let other =
            Finding::new(&missing::missing_setting::RULE.text, "a.b", "").fingerprint("one.wiring.yaml");
        assert_ne!(print("a.b", "one.wiring.yaml"), other);
    }

    #[test]
    fn a_path_inside_a_file_is_another_in_another_file() {
        let finding = Finding::new(&reading::unknown_field::RULE.text, "services.a.need", "");
        assert_ne!(finding.fingerprint("one.wiring.yaml"), finding.fingerprint("two.wiring.yaml"));
    }

    #[test]
    fn severities_are_in_order_worst_first() {
        assert!(Severity::ALL.is_sorted());
        assert_eq!(Severity::ALL.map(Severity::word), ["error", "warning", "note"]);
    }
}
