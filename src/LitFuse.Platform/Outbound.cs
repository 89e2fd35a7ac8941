using System.Net;
using System.Net.Sockets;

namespace LitFuse.Platform;

/// <summary>Where outbound calls may go.</summary>
public sealed class OutboundRules
{
    /// <summary>
    /// Whether loopback and private addresses may be called. On for the demonstration, whose outside is on this
    /// machine; off elsewhere, so that a connection's address cannot reach into our own network.
    /// </summary>
    public bool AllowPrivate { get; set; }
}

/// <summary>
/// Checks every outbound address as it is connected to, after name resolution, so that a name cannot point inside.
/// </summary>
public static class Outbound
{
    /// <summary>Why calls to this address are refused, or <c>null</c>.</summary>
    public static string? Fault(IPAddress address, OutboundRules rules)
    {
        if (address.IsIPv4MappedToIPv6)
            address = address.MapToIPv4();
        if (rules.AllowPrivate)
            return null;
        if (IPAddress.IsLoopback(address))
            return $"{address} is this machine itself";
        var inside =
            address.AddressFamily == AddressFamily.InterNetworkV6
                ? address.IsIPv6LinkLocal
                    || address.IsIPv6SiteLocal
                    || address.IsIPv6UniqueLocal
                    || address.IsIPv6Multicast
                    || address.Equals(IPAddress.IPv6Any)
                : IsInside(address.GetAddressBytes());
        return inside ? $"{address} is not a public address" : null;
    }

    /// <summary>A handler whose every connection is checked; redirects are not followed.</summary>
    public static SocketsHttpHandler Handler(OutboundRules rules) =>
        new()
        {
            AllowAutoRedirect = false,
            UseCookies = false,
            PooledConnectionLifetime = TimeSpan.FromMinutes(2),
            ConnectTimeout = TimeSpan.FromSeconds(5),
            ConnectCallback = async (context, stop) =>
            {
                var addresses = await Dns.GetHostAddressesAsync(context.DnsEndPoint.Host, stop);
                if (addresses.Length == 0)
                    throw new HttpRequestException($"{context.DnsEndPoint.Host} has no address");
                foreach (var address in addresses)
                {
                    if (Fault(address, rules) is { } fault)
                        throw new OutboundRefusedException(fault);
                }

                var socket = new Socket(SocketType.Stream, ProtocolType.Tcp) { NoDelay = true };
                try
                {
                    await socket.ConnectAsync(addresses, context.DnsEndPoint.Port, stop);
                    return new NetworkStream(socket, ownsSocket: true);
                }
                catch
                {
                    socket.Dispose();
                    throw;
                }
            },
        };

    // RFC 6890: this network, private use, shared, link local, protocol assignments, benchmarking, multicast, reserved.
    private static bool IsInside(byte[] a) =>
        a[0] is 0 or 10 or 127 or >= 224
        || (a[0] == 100 && a[1] is >= 64 and <= 127)
        || (a[0] == 169 && a[1] == 254)
        || (a[0] == 172 && a[1] is >= 16 and <= 31)
        || (a[0] == 192 && (a[1] == 168 || (a[1] == 0 && a[2] is 0 or 2)))
        || (a[0] == 198 && a[1] is 18 or 19);
}

/// <summary>An outbound address that is refused by rule.</summary>
public sealed class OutboundRefusedException(string message) : HttpRequestException(message);
