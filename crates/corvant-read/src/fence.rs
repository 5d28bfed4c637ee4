//! Work on one file, fenced in: a fault of the program that one file brings out is that file's finding, and the audit
//! of all others goes on.

use std::any::Any;
use std::cell::Cell;
use std::panic::{AssertUnwindSafe, catch_unwind};

thread_local! {
    static IS_INSIDE: Cell<bool> = const { Cell::new(false) };
}

/// Whether this thread works on a file, so that a panic is told as the file's finding.
pub fn is_inside() -> bool {
    IS_INSIDE.get()
}

/// Does work that a file asks for; if the program fails at it, what it said of that, as a clause that a sentence can end
/// with. What the work has half done when it fails must not matter to anybody.
pub(crate) fn fenced<T>(work: impl FnOnce() -> T) -> Result<T, String> {
    let was_inside = IS_INSIDE.replace(true);
    let done = catch_unwind(AssertUnwindSafe(work));
    IS_INSIDE.set(was_inside);
    done.map_err(|panic| {
        let said = said(panic.as_ref());
        format!("the program failed at it ({said}), which is its own fault: please report it, with the file")
    })
}

fn said(panic: &(dyn Any + Send)) -> &str {
    let text = panic.downcast_ref::<&str>().copied();
    text.or_else(|| panic.downcast_ref::<String>().map(String::as_str))
        .unwrap_or("for a reason it does not tell")
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_panic_is_what_it_said_and_the_fence_is_left() {
        let failed = fenced(|| assert!(!is_inside(), "cut at {}", 3)).unwrap_err();
        assert!(failed.contains("(cut at 3)"), "{failed}");
        assert!(!is_inside());
        let nested = fenced(|| {
            let inner = fenced(|| panic!("inside"));
            (inner.is_err(), is_inside())
        });
        assert_eq!(nested, Ok((true, true)));
    }
}
