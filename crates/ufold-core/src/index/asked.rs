//! The file that a step is about: read, and told what the project knows of its calls.

use std::sync::Arc;

use crate::change::{Code, Found, Place, Reason};
use crate::index::Project;
use crate::index::quiet::tell;
use crate::names::Source;

impl Project<'_> {
    /// The file that a place is in, read.
    pub(crate) fn source_at(&self, place: &Place) -> Found<Arc<Source>> {
        let found = self.index(&place.file).ok_or_else(|| format!("{} is not a file of the project", place.file));
        found.and_then(|f| self.source(f)).map_err(|message| {
            vec![Reason { code: Code::Unreadable, message, file: place.file.clone(), line: place.start_line }]
        })
    }

    /// The same for a step that changes the order of what is done.
    pub(crate) fn ordered_source_at(&self, place: &Place) -> Found<Arc<Source>> {
        self.source_at(place).inspect(|s| tell(self, s))
    }
}
