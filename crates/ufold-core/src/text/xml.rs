//! What the readers of reports share. Reports are read as streams: only what is kept of them takes memory.

use std::io::BufRead;

use quick_xml::events::BytesStart;

/// The first byte that is neither a byte order mark nor blank; what is before it is read over.
pub fn first_byte(from: &mut impl BufRead) -> std::io::Result<Option<u8>> {
    loop {
        let Some(byte) = from.fill_buf()?.first().copied() else { return Ok(None) };
        if !byte.is_ascii_whitespace() && ![0xef, 0xbb, 0xbf].contains(&byte) {
            return Ok(Some(byte));
        }
        from.consume(1);
    }
}

/// An attribute's value; the raw one where its escapes can't be read.
pub fn attribute(e: &BytesStart, name: &str) -> Option<String> {
    let value = e.attributes().flatten().find(|a| a.key.as_ref() == name.as_bytes())?;
    Some(match value.unescape_value() {
        Ok(v) => v.into_owned(),
        Err(_) => String::from_utf8_lossy(&value.value).into_owned(),
    })
}
