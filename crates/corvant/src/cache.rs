//! Where that is kept which takes long to find.

use crate::cli::Caching;
use crate::exit::CommandError;
use etcetera::base_strategy::{BaseStrategy, choose_base_strategy};
use std::fs;
use std::path::PathBuf;

/// The folder of the cache; `None`: nothing is kept, as is asked for, or as the user has no place for it.
pub(crate) fn folder(caching: &Caching) -> Result<Option<PathBuf>, CommandError> {
    if caching.no_cache {
        return Ok(None);
    }
    let Some(named) = &caching.cache else {
        return Ok(choose_base_strategy().ok().map(|places| places.cache_dir().join("corvant")));
    };
    // What is named and cannot be is a mistake; a place that nobody named is not.
    fs::create_dir_all(named)
        .map_err(|reason| CommandError::Output { path: named.display().to_string(), reason })?;
    Ok(Some(named.clone()))
}
