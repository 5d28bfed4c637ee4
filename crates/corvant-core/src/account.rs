//! Accounts: what a reader made of one file, for those who teach readers.

/// What one file came to.
#[derive(Debug, Clone, Default, PartialEq, Eq)]
pub struct Account {
    /// The file, relative to the root.
    pub path: String,
    /// Who read it; `None`: Corvant's own format.
    pub reader: Option<String>,
    /// The module it speaks for.
    pub module: Option<String>,
    /// What was taken, by kind, and how many of it.
    pub taken: Vec<(&'static str, usize)>,
    /// What was left over, in the order in which it comes up.
    pub left_over: Vec<LeftOver>,
    /// Values that may be meant as references and are none, in the order in which they stand.
    pub lookalikes: Vec<Lookalike>,
    /// Why it could not be read, if so.
    pub unread: Option<String>,
    /// What the reader sees of it, where that is asked for.
    pub tree: Option<Vec<TreeLine>>,
}

/// One value of a file, as readers see it.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct TreeLine {
    /// In how many others it stands.
    pub depth: usize,
    /// The key or the number that it stands under; of what patterns match, the patterns.
    pub key: String,
    /// Its text, if it is no list or map.
    pub text: Option<String>,
    /// Its line, from 1.
    pub line: u32,
    /// Whether it is an item of a take.
    pub is_item: bool,
    /// Whether a field looked at it.
    pub is_taken: bool,
}

/// A value in which no reference was found, though it looks like one.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Lookalike {
    /// The value.
    pub text: String,
    /// Whether it is the id of a service as it stands; otherwise it begins or ends as references do.
    pub is_id: bool,
    /// Its line, from 1.
    pub line: u32,
}

/// Values that nothing looked at, and that stand in the same way.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct LeftOver {
    /// Where such values stand, as a path; `*` stands for every key or position.
    pub path: String,
    /// How many there are.
    pub count: usize,
    /// The line of the first, from 1.
    pub line: u32,
}
