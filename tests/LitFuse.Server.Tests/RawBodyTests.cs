using LitFuse.Server.Ways;
using Xunit;

namespace LitFuse.Server.Tests;

/// <summary>What arrives is read by its type, and what cannot be read says why.</summary>
public sealed class RawBodyTests
{
    [Theory]
    [InlineData("application/json", "{\"a\":\"1\"}", "1")]
    [InlineData("application/vnd.form+json; charset=utf-8", "{\"a\":\"1\"}", "1")]
    [InlineData(null, "  {\"a\":\"1\"}", "1")] // it begins as JSON does
    [InlineData("text/plain", "{\"a\":\"1\"}", "1")] // as scripts of other pages send it
    [InlineData("application/x-www-form-urlencoded", "a=1+2%203", "1 2 3")]
    [InlineData(
        "multipart/form-data; boundary=x",
        "--x\r\nContent-Disposition: form-data; name=\"a\"\r\n\r\n1\r\n--x--\r\n",
        "1"
    )]
    public async Task A_body_is_read_by_its_type(string? type, string body, string value)
    {
        var payload = await RawBody.ReadAsync(type, System.Text.Encoding.UTF8.GetBytes(body));
        Assert.Null(payload.Unreadable);
        Assert.Equal(new Core.Payloads.Answer("a", value), Assert.Single(payload.Answers));
    }

    [Theory]
    [InlineData(null, "a=1")]
    [InlineData("application/pdf", "%PDF")]
    [InlineData("multipart/form-data; boundary=x", "--y--")]
    public async Task A_body_that_cannot_be_read_says_why(string? type, string body) =>
        Assert.False(
            string.IsNullOrEmpty((await RawBody.ReadAsync(type, System.Text.Encoding.UTF8.GetBytes(body))).Unreadable)
        );
}
