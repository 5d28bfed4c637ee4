//! What the system says of a file.

use serde::{Deserialize, Serialize};
use std::fs::{self, Metadata};
use std::path::Path;
use std::time::{Duration, SystemTime};

/// A file that was changed so lately may change again before the clock shows it.
const SETTLED: Duration = Duration::from_secs(2);

/// What the system says of a file: while that is the same, so is what is in it.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, Serialize, Deserialize)]
pub(super) struct FileState {
    size: u64,
    /// Device, number, and when the file itself and what is known of it were changed, as far as there are such.
    identity: [i64; 6],
}

impl FileState {
    /// That of a regular file, be it behind links; `None`: it is none, or when it was changed cannot be told.
    pub(super) fn of_file(path: &Path) -> Option<Self> {
        fs::metadata(path).ok().filter(Metadata::is_file).and_then(|of| Self::new(&of))
    }

    /// `None`: when it was changed cannot be told.
    #[cfg_attr(unix, expect(clippy::unnecessary_wraps, reason = "elsewhere there may be no time of change"))]
    pub(super) fn new(of: &Metadata) -> Option<Self> {
        #[cfg(unix)]
        let identity = {
            use std::os::unix::fs::MetadataExt;
            let (device, number) = (of.dev().cast_signed(), of.ino().cast_signed());
            [device, number, of.mtime(), of.mtime_nsec(), of.ctime(), of.ctime_nsec()]
        };
        #[cfg(not(unix))]
        let identity = {
            let modified = of.modified().ok()?.duration_since(SystemTime::UNIX_EPOCH).ok()?;
            [0, 0, modified.as_secs().cast_signed(), modified.subsec_nanos().into(), 0, 0]
        };
        Some(Self { size: of.len(), identity })
    }

    /// Whether the file was last changed long enough ago that the next change will show.
    pub(super) fn is_settled(&self) -> bool {
        let [_, _, modified, _, changed, _] = self.identity;
        let newest = Duration::from_secs(modified.max(changed).max(0).cast_unsigned());
        let now = SystemTime::now().duration_since(SystemTime::UNIX_EPOCH).unwrap_or_default();
        now.checked_sub(newest).is_some_and(|age| age > SETTLED)
    }
}
