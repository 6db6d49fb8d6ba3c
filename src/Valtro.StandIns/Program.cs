// Stand-ins for the places outside that Valtro's outlets are put into: a school's website, a learning platform and a map. They know nothing of
// Valtro but the address of its embeds, as any website would.
var builder = WebApplication.CreateBuilder(args);
var app = builder.Build();
var valtro = (app.Configuration["VALTRO_ADDRESS"] ?? "http://127.0.0.1:4180").TrimEnd('/');
var pages = Path.Combine(AppContext.BaseDirectory, "Pages");

string Page(string name) => File.ReadAllText(Path.Combine(pages, name)).Replace("{{valtro}}", valtro);

app.MapGet("/", () => Results.Content(Page("home.html"), "text/html; charset=utf-8"));
string Placed(string page, string? key, string? view, string usual) => Page(page)
    .Replace("{{key}}", Uri.EscapeDataString(key ?? "lanternfell"))
    .Replace("{{view}}", Uri.EscapeDataString(view ?? usual));
app.MapGet("/calendar", (string? key) => Results.Content(Placed("calendar.html", key, null, ""), "text/html; charset=utf-8"));
app.MapGet("/news", (string? key, string? view) => Results.Content(Placed("news.html", key, view, "cards"), "text/html; charset=utf-8"));
// A learning platform, which takes frames and no scripts. It is another origin than the website by its host's name.
app.MapGet("/course", (string? key, string? view, HttpContext http) =>
{
    http.Response.Headers.ContentSecurityPolicy = "script-src 'none'";
    return Results.Content(Placed("course.html", key, view, "list"), "text/html; charset=utf-8");
});
app.MapPlatform(Page);
app.MapGet("/map", (string? q) => Results.Content(
    Page("map.html").Replace("{{q}}", System.Net.WebUtility.HtmlEncode(q ?? "")), "text/html; charset=utf-8"));
// What events link to: one page anybody can open, one behind a sign-in, one with a form.
app.MapGet("/open-days", () => Results.Content(Page("paper.html").Replace("{{title}}", "What to see where"), "text/html; charset=utf-8"));
app.MapGet("/tickets", () => Results.Content(Page("paper.html").Replace("{{title}}", "Reserve seats"), "text/html; charset=utf-8"));
app.MapGet("/careers", () => Results.Redirect("/sign-in?back=careers"));
app.MapGet("/sign-in", () => Results.Content(Page("paper.html").Replace("{{title}}", "Sign in to the families’ room"), "text/html; charset=utf-8"));
app.MapGet("/summer", () => Results.Content(Page("paper.html").Replace("{{title}}", "Summer programme"), "text/html; charset=utf-8"));
// The box that outgoing mail lands in when no mail server is set: the last of them, readable by whoever runs the demo.
var box = new System.Collections.Concurrent.ConcurrentQueue<BoxedMail>();
app.MapPost("/mail", (BoxedMail mail) =>
{
    // The same mail sent again is one mail.
    if (box.All(m => m.Id != mail.Id))
        box.Enqueue(mail);
    while (box.Count > 200)
        box.TryDequeue(out _);
    return Results.NoContent();
});
app.MapGet("/mail.json", () => box.Reverse());
app.MapGet("/mail", () =>
{
    string Text(string text) => System.Text.RegularExpressions.Regex.Replace(
        System.Net.WebUtility.HtmlEncode(text), @"https?://\S+", m => $"<a href=\"{m.Value}\">{m.Value}</a>").Replace("\n", "<br>");
    var mails = string.Join("", box.Reverse().Select(m => $"<article><h2>{Text(m.Subject)}</h2><p>to {Text(m.Recipient)}</p><p>{Text(m.Body)}</p></article>"));
    return Results.Content(Page("mail.html").Replace("{{mails}}", mails.Length > 0 ? mails : "<p>No mail yet.</p>"), "text/html; charset=utf-8");
});
app.MapGet("/site.css", () => Results.Content(Page("site.css"), "text/css; charset=utf-8"));
app.MapGet("/health/ready", () => "ready");
app.Run();

internal sealed record BoxedMail(Guid Id, string Recipient, string Subject, string Body);
