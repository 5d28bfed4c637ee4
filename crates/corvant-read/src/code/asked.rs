//! What a reader asks of code.

use super::pattern::CodePattern;

/// Items that patterns match.
#[derive(Clone, Debug)]
pub(crate) struct CodeItems {
    /// Where the patterns stand in the workspace file.
    pub(crate) at: u32,
    /// Of several that match a piece the first counts.
    pub(crate) patterns: Vec<CodePattern>,
}

impl CodeItems {
    /// The key that they stand under in the tree.
    pub(crate) fn key(&self) -> String {
        format!("#{}", self.at)
    }

    /// The patterns as they are written.
    pub(crate) fn text(&self) -> String {
        self.patterns.iter().map(CodePattern::text).collect::<Vec<_>>().join(" or ")
    }
}

/// Needs that patterns match, inside an item.
#[derive(Clone, Debug)]
pub(crate) struct CodeNeeds {
    pub(crate) items: CodeItems,
    /// The hole of the item that they stand in; `None`: anywhere in the item.
    pub(crate) inside: Option<String>,
    /// Holes that hold the same as holes of the item.
    pub(crate) same: Vec<(String, String)>,
    pub(crate) within: CodePlace,
}

/// Where items stand.
#[derive(Clone, Debug, Default)]
pub(crate) struct CodePlace {
    /// The function around them, or one that calls that of the same type.
    pub(crate) method: Option<String>,
    /// The type around them is one of this one.
    pub(crate) class_extends: Option<String>,
}

impl CodePlace {
    /// Whether anything is said of it.
    pub(crate) fn is_anywhere(&self) -> bool {
        self.method.is_none() && self.class_extends.is_none()
    }
}

/// Which conditions around items are stages.
#[derive(Clone, Debug, Default)]
pub(crate) struct When {
    /// Forms of conditions beside those of the language, each with a hole `COND`.
    pub(crate) patterns: Vec<CodePattern>,
    /// By condition the stage in which it holds, and that in which it does not; without that, it is every other.
    pub(crate) stages: Vec<(String, String, Option<String>)>,
}

/// What one take asks.
#[derive(Clone, Debug)]
pub(crate) struct AskedItems<'a> {
    /// `None`: the items are types or functions, which a path selects.
    pub(crate) items: Option<&'a CodeItems>,
    pub(crate) within: &'a CodePlace,
    pub(crate) when: &'a When,
    pub(crate) needs: Vec<&'a CodeNeeds>,
}

/// All that is asked of a file.
#[derive(Clone, Debug, Default)]
pub(crate) struct Asked<'a> {
    pub(crate) takes: Vec<AskedItems<'a>>,
    /// What is a blind spot where it was not taken.
    pub(crate) blind: &'a [CodePattern],
}

impl<'a> Asked<'a> {
    /// All patterns, with the key of what they match.
    pub(super) fn patterns(&self) -> impl Iterator<Item = (Role, &'a [CodePattern])> + '_ {
        let of_take = |take: &AskedItems<'a>| {
            let own = take.items.map(|items| (Role::Items(items.at), items.patterns.as_slice()));
            let needs =
                take.needs.iter().map(|need| (Role::Items(need.items.at), need.items.patterns.as_slice()));
            let when =
                (Role::Condition(std::ptr::from_ref(take.when) as usize), take.when.patterns.as_slice());
            own.into_iter().chain(needs.collect::<Vec<_>>()).chain([when]).collect::<Vec<_>>()
        };
        self.takes.iter().flat_map(of_take).chain([(Role::Blind, self.blind)])
    }

    /// Whether anything is kept to a function, and so to what that calls.
    pub(super) fn asks_calls(&self) -> bool {
        let of_needs = |take: &AskedItems<'_>| take.needs.iter().any(|need| need.within.method.is_some());
        self.takes.iter().any(|take| take.within.method.is_some() || of_needs(take))
    }

    /// Whether any pattern may match in a text.
    pub(crate) fn may_match(&self, text: &str) -> bool {
        self.patterns()
            .filter(|(role, _)| !matches!(role, Role::Condition(_)))
            .any(|(_, patterns)| patterns.iter().any(|pattern| pattern.may_match(text)))
    }
}

/// What a pattern is for.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub(super) enum Role {
    /// Items, by where their patterns stand.
    Items(u32),
    /// Conditions of the take whose `when` has this address.
    Condition(usize),
    Blind,
}
