//! How far an address of a printer may lead. Whoever may type one could have the server ask any host for them, and
//! read what it answers: so it leads to this machine and its own network, unless a host was named at the start.

use std::future::Future;
use std::io;
use std::net::{IpAddr, SocketAddr};
use std::pin::Pin;
use std::task::{Context, Poll};

use axum::http::Uri;
use hyper_util::client::legacy::connect::dns::Name;
use tower::Service;

/// How far an address may lead.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Reach {
    /// To this machine and its own network.
    Near,
    /// Anywhere: its host was named when the server was started.
    Anywhere,
}

/// The host in an address; empty where it has none.
pub(super) fn host_of(address: &str) -> String {
    let uri: Option<Uri> = address.parse().ok();
    let host = uri.as_ref().and_then(Uri::host).unwrap_or_default();
    host.trim_matches(['[', ']']).to_owned()
}

/// Whether a host is in this machine's own network, by its address or its name. What a name leads to is looked at when
/// it is asked for, see [`Names`].
pub(super) fn is_near(host: &str) -> bool {
    if let Ok(ip) = host.parse::<IpAddr>() {
        return is_near_ip(ip);
    }
    // RFC 6761, RFC 6762 and RFC 8375; and what a network's own router calls its machines.
    let local = ["localhost", "local", "lan", "internal", "home.arpa", "home"];
    let host = host.trim_end_matches('.').to_ascii_lowercase();
    let within = |zone: &&str| host == **zone || host.ends_with(&format!(".{zone}"));
    !host.is_empty() && (!host.contains('.') || local.iter().any(within))
}

/// Loopback, and private addresses by RFC 1918 and RFC 4193. Link-local ones are none: some networks keep their keys
/// there.
fn is_near_ip(ip: IpAddr) -> bool {
    match ip.to_canonical() {
        IpAddr::V4(v4) => v4.is_loopback() || v4.is_private(),
        IpAddr::V6(v6) => v6.is_loopback() || v6.is_unique_local(),
    }
}

/// Looks names up, and passes on only addresses that are near enough.
#[derive(Debug, Clone)]
pub(super) struct Names(pub(super) Reach);

impl Service<Name> for Names {
    type Response = std::vec::IntoIter<SocketAddr>;
    type Error = io::Error;
    type Future = Pin<Box<dyn Future<Output = io::Result<Self::Response>> + Send>>;

    fn poll_ready(&mut self, _: &mut Context<'_>) -> Poll<io::Result<()>> {
        Poll::Ready(Ok(()))
    }

    fn call(&mut self, name: Name) -> Self::Future {
        let reach = self.0;
        Box::pin(async move {
            let found = tokio::net::lookup_host((name.as_str(), 0)).await?;
            let near = |at: &SocketAddr| reach == Reach::Anywhere || is_near_ip(at.ip());
            let near: Vec<SocketAddr> = found.filter(near).collect();
            if near.is_empty() {
                return Err(io::Error::other("it leads out of this network"));
            }
            Ok(near.into_iter())
        })
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    #[rstest]
    #[case::this_machine("http://127.0.0.1:7611", true)]
    #[case::by_name("http://localhost:7611", true)]
    #[case::version_6("http://[::1]:7611", true)]
    #[case::the_network("http://192.168.7.20:80", true)]
    #[case::a_large_network("http://10.4.0.9:80", true)]
    #[case::unique_local("http://[fd12::4]:80", true)]
    #[case::a_local_name("http://printer.local:80", true)]
    #[case::a_name_of_the_router("http://dunlin:80", true)]
    #[case::the_world("http://93.184.216.34:80", false)]
    #[case::a_name_of_the_world("http://printer.example:80", false)]
    #[case::it_only_sounds_local("http://local.example:80", false)]
    #[case::keys_of_a_cloud("http://169.254.169.254:80", false)]
    #[case::four_in_six("http://[::ffff:93.184.216.34]:80", false)]
    #[case::nowhere("http://0.0.0.0:80", false)]
    fn an_address_leads_into_the_own_network(#[case] address: &str, #[case] near: bool) {
        assert_eq!(is_near(&host_of(address)), near);
    }

    /// A number is a name to those who look it up: what comes of it counts.
    #[tokio::test]
    async fn what_a_name_leads_to_counts() {
        let ask = async |name: &str, reach| {
            let name: Name = name.parse().expect("a name");
            Names(reach).call(name).await.is_ok()
        };
        assert!(ask("localhost", Reach::Near).await);
        assert!(!ask("134744072", Reach::Near).await, "that is 8.8.8.8");
        assert!(ask("134744072", Reach::Anywhere).await);
    }
}
