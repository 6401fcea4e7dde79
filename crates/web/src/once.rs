//! A form that is sent twice, by a double click or over a bad line, is carried out once.
//!
//! Every form of a page carries a key of its own. The first write of a request spends it, in the same transaction
//! (`App::write`); whoever comes with the same key waits for the first and is led where that was led (`sent_forms`).

use std::cell::Cell;
use std::collections::{HashMap, VecDeque};
use std::sync::{Arc, Mutex, PoisonError};

use axum::http::HeaderValue;

/// Name of the field.
const NAME: &str = "once";
/// Letters of a key at most.
const LONGEST: usize = 40;
/// Keys of which it is remembered where they led.
const MOST_KEPT: usize = 4096;

tokio::task_local! {
    static KEY: Cell<Option<String>>;
}

/// A request, whose first write spends this key.
pub(crate) async fn within<T>(key: String, answer: impl Future<Output = T>) -> T {
    KEY.scope(Cell::new(Some(key)), answer).await
}

/// The key of this request, for its first write; nothing after that.
pub(crate) fn take() -> Option<String> {
    KEY.try_with(Cell::take).ok().flatten()
}

/// Where the first with a key was led; locked while it is carried out.
pub(crate) type Led = Arc<tokio::sync::Mutex<Option<HeaderValue>>>;

/// Keys that came of late.
#[derive(Debug, Default)]
pub(crate) struct Sent(Mutex<(HashMap<String, Led>, VecDeque<String>)>);

impl Sent {
    /// Where the first with this key was led.
    pub(crate) fn of(&self, key: &str) -> Led {
        let mut kept = self.0.lock().unwrap_or_else(PoisonError::into_inner);
        let (by_key, order) = &mut *kept;
        if let Some(led) = by_key.get(key) {
            return Arc::clone(led);
        }
        if order.len() >= MOST_KEPT
            && let Some(oldest) = order.pop_front()
        {
            by_key.remove(&oldest);
        }
        order.push_back(key.to_owned());
        Arc::clone(by_key.entry(key.to_owned()).or_default())
    }
}

/// The key in a form, or in an address.
pub(crate) fn find(pairs: &[u8]) -> Option<String> {
    let mut pairs = form_urlencoded::parse(pairs);
    let (_, key) = pairs.find(|(name, _)| name == NAME)?;
    let plain = |c: char| c.is_ascii_alphanumeric() || c == '-';
    let ours = !key.is_empty() && key.len() <= LONGEST && key.chars().all(plain);
    ours.then(|| key.into_owned())
}

/// A page with a key in every form that changes something.
pub(crate) fn with_keys(page: String) -> String {
    const FORM: &str = "<form";
    if !page.contains("method=\"post\"") {
        return page;
    }
    let of_page = uuid::Uuid::new_v4().simple().to_string();
    let of_page = &of_page[..16];
    let mut keyed = String::with_capacity(page.len() + 4096);
    let mut pieces = page.split(FORM);
    keyed.push_str(pieces.next().unwrap_or_default());
    for (n, piece) in pieces.enumerate() {
        keyed.push_str(FORM);
        let Some((tag, rest)) = piece.split_once('>') else {
            keyed.push_str(piece);
            continue;
        };
        let posts = tag.contains("method=\"post\"");
        if posts && tag.contains("multipart/form-data") {
            keyed.push_str(&in_address(tag, &format!("{NAME}={of_page}-{n}")));
            keyed.push('>');
        } else {
            keyed.push_str(tag);
            keyed.push('>');
            if posts {
                keyed.push_str(&format!(
                    "<input type=\"hidden\" name=\"{NAME}\" value=\"{of_page}-{n}\" autocomplete=\"off\">"
                ));
            }
        }
        keyed.push_str(rest);
    }
    keyed
}

/// The tag of a form with more in the address it is sent to.
fn in_address(tag: &str, more: &str) -> String {
    const ACTION: &str = "action=\"";
    let Some((before, address)) = tag.split_once(ACTION) else {
        return tag.to_owned();
    };
    let Some((address, after)) = address.split_once('"') else {
        return tag.to_owned();
    };
    let joint = if address.contains('?') { "&amp;" } else { "?" };
    format!("{before}{ACTION}{address}{joint}{more}\"{after}")
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    #[test]
    fn every_form_that_changes_something_gets_a_key_of_its_own() {
        let page = "<p>x</p><form method=\"get\" action=\"/a\"><b></b></form>\
            <form class=\"x\" method=\"post\" action=\"/b\"><button>Go</button></form>\
            <form method=\"post\" action=\"/c?then=/d\" enctype=\"multipart/form-data\"></form>\
            <form method=\"post\" action=\"/e\"></form>";
        let keyed = with_keys(page.to_owned());
        assert_eq!(keyed.matches("name=\"once\"").count(), 2, "{keyed}");
        assert!(keyed.contains("action=\"/a\"><b>"));
        assert!(keyed.contains("action=\"/b\"><input type=\"hidden\" name=\"once\""));
        assert!(keyed.contains("action=\"/c?then=/d&amp;once="));
        assert!(keyed.contains("-1\" autocomplete") && keyed.contains("-3\" autocomplete"));
        assert_ne!(keyed, with_keys(page.to_owned()), "every time another");
        assert_eq!(with_keys("<p>nothing</p>".into()), "<p>nothing</p>");
    }

    #[rstest]
    #[case::ours("a=1&once=0123-4&b=2", Some("0123-4"))]
    #[case::none("a=1", None)]
    #[case::empty("once=", None)]
    #[case::odd("once=%3Cx%3E", None)]
    #[case::long("once=0123456789012345678901234567890123456789x", None)]
    fn only_keys_like_ours_are_heeded(#[case] form: &str, #[case] key: Option<&str>) {
        assert_eq!(find(form.as_bytes()).as_deref(), key);
    }
}
