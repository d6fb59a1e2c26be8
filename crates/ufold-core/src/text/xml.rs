//! What the readers of XML reports share.

use quick_xml::events::BytesStart;

/// An attribute's value; the raw one where its escapes can't be read.
pub fn attribute(e: &BytesStart, name: &str) -> Option<String> {
    let value = e.attributes().flatten().find(|a| a.key.as_ref() == name.as_bytes())?;
    Some(match value.unescape_value() {
        Ok(v) => v.into_owned(),
        Err(_) => String::from_utf8_lossy(&value.value).into_owned(),
    })
}
