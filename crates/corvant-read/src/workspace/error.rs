//! Why a workspace cannot be read at all.

/// Why a workspace cannot be read at all.
#[derive(Debug, thiserror::Error)]
pub enum WorkspaceError {
    /// The folder is not there, or is no folder.
    #[error("{path} is not a folder that can be read: {reason}")]
    NoFolder {
        /// The folder.
        path: String,
        /// What is wrong with it.
        reason: String,
    },
    /// The workspace file cannot be read, so nothing can be said of the workspace.
    #[error("the workspace file cannot be used: {at}: {reason}")]
    BrokenFile {
        /// The file, with line and column where they are known.
        at: String,
        /// What is wrong with it.
        reason: String,
    },
    /// Readers that the workspace file teaches have mistakes: what they would miss could not be told from what is
    /// missing.
    #[error("the workspace file describes readers that cannot be used:\n{mistakes}")]
    BrokenReaders {
        /// The mistakes, each on a line of its own, with line and column.
        mistakes: String,
    },
    /// There is no manifest below it.
    #[error(
        "no manifest was found below {path}: looked for files named *.wiring.yaml, *.wiring.yml, *.wiring.json and *.wiring.toml{readers}, and for those of open standards{hidden}"
    )]
    NothingFound {
        /// The folder, and what of it is looked at.
        path: String,
        /// What custom readers look for, if there are any.
        readers: String,
        /// What was not looked at, each on a line of its own.
        hidden: String,
    },
}
