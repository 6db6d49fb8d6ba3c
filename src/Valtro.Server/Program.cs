using System.Reflection;
using Microsoft.AspNetCore.DataProtection;
using Valtro.Server;
using Valtro.Server.Accounts;
using Valtro.Server.Api;
using Valtro.Server.Audit;
using Valtro.Server.Board;
using Valtro.Server.Calendars;
using Valtro.Server.Checks;
using Valtro.Server.Commands;
using Valtro.Server.Demo;
using Valtro.Server.Events;
using Valtro.Server.Files;
using Valtro.Server.FirstRun;
using Valtro.Server.Jobs;
using Valtro.Server.Limits;
using Valtro.Server.Links;
using Valtro.Server.Lists;
using Valtro.Server.Live;
using Valtro.Server.Outlets;
using Valtro.Server.Outside;
using Valtro.Server.People;
using Valtro.Server.Proposals;
using Valtro.Server.Publications;
using Valtro.Server.Readers;
using Valtro.Server.Search;
using Valtro.Server.Seeing;
using Valtro.Server.Sessions;
using Valtro.Server.Sources;
using Valtro.Server.TakeOut;
using Valtro.Server.Templates;
using Valtro.Server.Undo;
using Valtro.Server.Views;
using Valtro.Server.WhoSees;
using Valtro.Server.Years;
using Valtro.Store;

var builder = WebApplication.CreateBuilder(args);
builder.Configuration.AddEnvironmentVariables("VALTRO_");
builder.WebHost.ConfigureKestrel(kestrel =>
{
    kestrel.AddServerHeader = false;
    kestrel.Limits.MaxRequestBodySize = 256 * 1024;
});

ServerSettings settings;
try
{
    settings = ServerSettings.From(builder.Configuration);
}
catch (SettingException error)
{
    Console.Error.WriteLine(error.Message);
    Environment.ExitCode = 2;
    return;
}
builder.Services.AddSingleton(settings);
builder.AddSeeing(settings);
builder.Services.AddDataProtection().SetApplicationName("valtro").PersistKeysToFileSystem(new DirectoryInfo(settings.Keys));
builder.Services.AddSingleton(settings.MakeClock());
builder.Services.AddSingleton(_ => Database.Connect(settings.Database, settings.ListeningDatabase, settings.Limits));
builder.Services.AddSingleton<Schools>();
builder.Services.AddSingleton<SchoolYears>();
builder.Services.AddSingleton<Valtro.Store.Lists>();
builder.Services.AddSingleton<AcceptedClashes>();
builder.Services.AddSingleton<Valtro.Store.People>();
builder.Services.AddSingleton<Roles>();
builder.Services.AddSingleton<Groups>();
builder.Services.AddSingleton<Members>();
builder.Services.AddSingleton<Valtro.Store.Accounts>();
builder.Services.AddSingleton<AuditLog>();
builder.Services.AddSingleton<Valtro.Store.Limits>();
builder.Services.AddSingleton<HistoryKeeping>();
builder.Services.AddSingleton<SecondFactors>();
builder.Services.AddSingleton<OwnPassword>();
builder.Services.AddScoped<OwnSettings>();
builder.Services.AddSingleton<FirstRunCode>();
builder.Services.AddSingleton<Overview>();
builder.Services.AddSingleton<ResetThrottle>();
builder.Services.AddHttpClient();
builder.Services.AddSingleton<IMailWay, MailWay>();
builder.Services.AddSingleton<Invitations>();
builder.Services.AddSingleton<Mails>();
builder.Services.AddSingleton<Valtro.Store.Calendars>();
builder.Services.AddSingleton<Valtro.Store.Events>();
builder.Services.AddSingleton<Contents>();
builder.Services.AddSingleton<Valtro.Store.Proposals>();
builder.Services.AddSingleton<OpeningRequests>();
builder.Services.AddSingleton<MailReaders>();
builder.Services.AddSingleton<ReaderAddresses>();
builder.Services.AddSingleton<FollowPages>();
builder.Services.AddSingleton<SchoolStates>();
builder.Services.AddSingleton<RepeatedRequests>();
builder.Services.AddSingleton<Projections>();
builder.Services.AddScoped<EventViews>();
builder.Services.AddScoped<TemplateViews>();
builder.Services.AddScoped<CommandHandler>();
builder.Services.AddScoped<UndoHandler>();
builder.Services.AddSingleton<ProofKeeper>();
builder.Services.AddScoped<ClashCheck>();
builder.Services.AddScoped<ProposedBoard>();
builder.Services.AddScoped<ProposalTelling>();
builder.Services.AddSingleton<LinkChecks>();
builder.Services.AddSingleton<OutsideClient>();
builder.Services.AddSingleton<LinkChecker>();
builder.Services.AddSingleton<Valtro.Store.Sources>();
builder.Services.AddSingleton<SourceFetcher>();
builder.Services.AddSingleton<SourceReader>();
builder.Services.AddSingleton<SourceIntake>();
builder.Services.AddSingleton<ReadFiles>();
builder.Services.AddScoped<BringIn>();
builder.Services.AddSingleton<Valtro.Store.Templates>();
builder.Services.AddSingleton<Valtro.Store.Publications>();
builder.Services.AddSingleton<Readings>();
builder.Services.AddSingleton<DemoFiller>();
builder.Services.AddSingleton<DatabaseGate>();
builder.Services.AddSingleton<RoomWatch>();
// Open downloads and streams have so long when the server is told to end.
builder.Services.Configure<HostOptions>(host => host.ShutdownTimeout = TimeSpan.FromSeconds(10));
builder.Services.AddSingleton<Stopping>();
builder.Services.AddSingleton<IHostLifetime>(services => services.GetRequiredService<Stopping>());
builder.Services.AddSingleton<DatabaseOpening>();
builder.Services.AddSingleton<ChangeFeed>();
builder.Services.AddSingleton<ToldChanges>();
builder.Services.AddScoped<LiveEndpoints.Screen>();
// The build reads the endpoints through a host of its own; nothing may be touched then.
var isRead = Assembly.GetEntryAssembly()?.GetName().Name == "GetDocument.Insider";
if (!isRead)
{
    builder.Services.AddHostedService(services => services.GetRequiredService<DatabaseOpening>());
    builder.Services.AddHostedService(services => services.GetRequiredService<ChangeFeed>());
    builder.Services.AddHostedService(services => services.GetRequiredService<KeptFiles>());
    builder.Services.AddHostedService(services => services.GetRequiredService<Renewal>());
    builder.Services.AddHostedService(services => services.GetRequiredService<EveryAddress>());
    builder.Services.AddSingleton<IJob, BinKeeper>();
    builder.Services.AddSingleton<IJob>(services => services.GetRequiredService<RoomWatch>());
    builder.Services.AddSingleton<IJob, LinkKeeper>();
    builder.Services.AddSingleton<IJob, SourceKeeper>();
    builder.Services.AddSingleton<IJob, MailSender>();
    builder.Services.AddSingleton<IJob, ProposalTeller>();
    builder.Services.AddSingleton<IJob, TroubleTeller>();
    builder.Services.AddSingleton<IJob, ReaderMailer>();
    builder.Services.AddSingleton<IJob>(services => services.GetRequiredService<ReadingLog>());
    builder.Services.AddHostedService<JobSupervisor>();
}
builder.Services.AddSessions();
builder.Services.AddOutlets();
builder.Services.AddApi();
builder.Services.AddRateLimits(settings);

var app = builder.Build();
app.UseMetricsPort(settings);
// Without a list of proxies the framework would believe anybody.
if (settings.Proxies.Count > 0)
    app.UseForwardedHeaders();
app.UseMiddleware<OutletDoor>();
app.UseExceptionHandler();
app.UseWhen(
    http => http.Request.Path.StartsWithSegments("/api") || http.Request.Path.StartsWithSegments("/health"),
    said => said.UseStatusCodePages(context => Problems.OfStatus(context.HttpContext.Response.StatusCode).ExecuteAsync(context.HttpContext)));
app.UseMiddleware<SecurityHeaders>();
app.UseWebFiles();
app.UseDatabaseGate();
// Said here, or it would come before everything, the door too.
app.UseRouting();
app.UseAuthentication();
app.Use((http, next) =>
{
    http.RequestServices.GetRequiredService<CurrentPerson>().User = http.User;
    return next(http);
});
app.UseRateLimiter();
app.UseAuthorization();
app.UseMiddleware<CrossSiteGuard>();
app.UseMiddleware<AuditMiddleware>();
app.UseMiddleware<Authorisation>();
app.UseMiddleware<RepeatMiddleware>();

app.MapHealth();

var api = app.MapGroup("/api").RequireAuthorization();
api.MapSessions();
api.MapFirstRun();
api.MapPeople();
api.MapAccounts();
api.MapAudit();
api.MapLimits();
api.MapWhoSees();
api.MapBoard();
api.MapReach();
api.MapCalendars();
api.MapSchoolYears();
api.MapLists();
api.MapChecks();
api.MapLive();
api.MapSearch();
api.MapBoardSettings();
api.MapEvents();
api.MapUndo();
api.MapLines();
api.MapTyped();
api.MapFiles();
api.MapLinks();
api.MapSources();
api.MapBringing();
api.MapTakeOut();
api.MapProposals();
api.MapTemplates();
api.MapPublications();
api.MapOpeningRequests();
api.MapReaderMail();
// Also what looks like a file's name is no page of the interface.
api.MapFallback("{*rest}", Problems.NoSuchAddress).AllowAnonymous();
app.MapOutlets();
app.MapFollowing();
app.MapWorkspace();
app.UseEndpoints(_ => { });
Authorisation.Check(app);

if (!isRead)
{
    if (!await app.Services.GetRequiredService<DatabaseOpening>().TryAsync())
        return;
    app.Services.GetRequiredService<Telemetry>().IsHearing = () => app.Services.GetRequiredService<ChangeFeed>().IsHearing;
}
await app.RunAsync();

/// <summary>The server, named so that tests can start it.</summary>
public partial class Program;
