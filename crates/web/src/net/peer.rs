//! Who is at the other end of a line.

use std::net::{IpAddr, Ipv6Addr};

use axum::http::HeaderMap;

/// The address a line comes from.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(crate) struct Peer(pub(crate) IpAddr);

impl Peer {
    /// Who asks, without a proxy in front.
    pub(crate) fn own(self) -> IpAddr {
        one_of(self.0)
    }

    /// Who asks, where a proxy in front passes it on: the last it names, for the others were written by whoever asks.
    /// Only one on this machine is believed.
    pub(crate) fn behind(self, headers: &HeaderMap) -> IpAddr {
        let named = headers.get_all("x-forwarded-for").iter().next_back();
        let named = named.and_then(|v| v.to_str().ok()?.rsplit(',').next()?.trim().parse().ok());
        match named {
            Some(ip) if self.0.is_loopback() => one_of(ip),
            _ => self.own(),
        }
    }
}

/// Whoever has one address of version 6 has 2^64 of them (RFC 4291, 2.5.4): they count as one.
pub(super) fn one_of(ip: IpAddr) -> IpAddr {
    match ip.to_canonical() {
        IpAddr::V6(v6) => {
            let [a, b, c, d, ..] = v6.segments();
            IpAddr::V6(Ipv6Addr::new(a, b, c, d, 0, 0, 0, 0))
        }
        v4 => v4,
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    #[rstest]
    #[case::straight("192.168.7.31", None, "192.168.7.31")]
    #[case::by_a_proxy("127.0.0.1", Some("10.0.0.9"), "10.0.0.9")]
    #[case::by_one_that_was_told_another("127.0.0.1", Some("1.2.3.4, 10.0.0.9"), "10.0.0.9")]
    #[case::who_only_says_so("192.168.7.31", Some("10.0.0.9"), "192.168.7.31")]
    #[case::nonsense("127.0.0.1", Some("nobody"), "127.0.0.1")]
    #[case::four_in_six("::ffff:192.168.7.31", None, "192.168.7.31")]
    #[case::one_of_many("2001:db8:1:2:3:4:5:6", None, "2001:db8:1:2::")]
    fn the_address_behind_a_line(
        #[case] peer: &str,
        #[case] forwarded: Option<&'static str>,
        #[case] who: &str,
    ) {
        let mut headers = HeaderMap::new();
        if let Some(said) = forwarded {
            headers.insert("x-forwarded-for", said.parse().expect("a header"));
        }
        let peer = Peer(peer.parse().expect("an address"));
        assert_eq!(peer.behind(&headers).to_string(), who);
    }
}
