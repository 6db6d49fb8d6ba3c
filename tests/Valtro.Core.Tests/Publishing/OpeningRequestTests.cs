using FsCheck.Xunit;
using Valtro.Core.Publishing;
using Valtro.Core.Reach;
using static Valtro.Core.Tests.Sample;

namespace Valtro.Core.Tests.Publishing;

public class OpeningRequestTests
{
    private static readonly Guid Keeper = Guid.NewGuid();

    [Fact]
    public void Only_what_is_chosen_and_not_open_yet_is_asked_for()
    {
        var calendar = Calendar(new ReachTable(Detail.Everything, Detail.Headlines, Detail.Headlines));
        string? Asked(Detail detail, Publication? publication = null) => Code(() => OpeningRequest.New(publication ?? Publication(calendar), calendar, detail, null, Keeper, Now));
        Assert.Equal("detail_unknown", Asked(Detail.Nothing));
        Assert.Equal("detail_unknown", Asked((Detail)9));
        Assert.Equal("already_open", Asked(Detail.Headlines));
        Assert.Equal("calendar_not_chosen", Asked(Detail.Everything, Publication(Calendar())));
        var request = OpeningRequest.New(Publication(calendar), calendar, Detail.Everything, " For families ", Keeper, Now);
        Assert.Equal((Audience.Everyone, "For families", null), (request.Audience, request.Remark, request.Answer));
    }

    [Property]
    public void An_answer_gives_the_readers_what_it_says_and_takes_nothing_from_anybody(byte members, byte holders, byte everyone, byte given)
    {
        Detail Of(byte b) => (Detail)(b % 4);
        var sorted = new[] { Of(members), Of(holders), Of(everyone) }.OrderDescending().ToArray();
        var calendar = Calendar(new ReachTable(sorted[0], sorted[1], sorted[2]));
        var request = new OpeningRequest(Guid.NewGuid(), Guid.NewGuid(), calendar.Id, Keeper, Audience.LinkHolders, Detail.Everything, "", Now, null);
        var (answered, reach) = request.Answered(calendar, Of(given), "", Keeper, Now);
        Assert.Equal(Of(given), answered.Answer!.Given);
        foreach (var audience in new[] { Audience.Members, Audience.LinkHolders, Audience.Everyone })
            Assert.True(reach.For(audience) >= calendar.Reach.For(audience));
        Assert.True(reach.LinkHolders >= Of(given));
        Assert.Equal(calendar.Reach.Everyone, reach.Everyone);
    }

    [Fact]
    public void Trouble_is_told_once()
    {
        var (a, b) = (new PublicationTrouble(Guid.NewGuid(), "Boats", TroubleKind.Closed), new PublicationTrouble(Guid.NewGuid(), "Knots", TroubleKind.Emptied));
        Assert.Equal([b], PublicationTrouble.News([a, b], [a.Name]));
        Assert.Equal([a with { Kind = TroubleKind.Binned }], PublicationTrouble.News([a with { Kind = TroubleKind.Binned }], [a.Name]));
        Assert.Empty(PublicationTrouble.News([], [a.Name]));
    }

    [Fact]
    public void Every_choice_that_differs_is_named()
    {
        var before = Publication(Calendar()).Settings;
        Assert.Empty(SettingDifference.Between(before, before with { }));
        var after = before with
        {
            Introduction = "For all",
            Look = before.Look with { ShowsPrint = true, Count = 9, Views = [OutletView.Week], Theme = before.Look.Theme with { Css = new string('x', 99), Corner = 9 }, Sites = ["https://a.example"] },
            Choices = before.Choices with { HidesCalledOff = true, DaysAhead = 30 },
        };
        Assert.Equal(
            ["introduction:  → For all", "hidesCalledOff: no → yes", "daysAhead: ? → 30", "views: ? → ?", "showsPrint: no → yes", "count: 6 → 9", "corner: 3 → 9", "css:  → ?", "sites: ? → ?"],
            SettingDifference.Between(before, after).Select(d => $"{d.Choice}: {d.Before ?? "?"} → {d.After ?? "?"}"));
        // Whatever can be chosen of a look is told.
        var told = SettingDifference.Between(before, before with { Look = new PublicationLook { Views = [], ShowsTitle = true } }).Select(d => d.Choice).ToList();
        Assert.Contains("views", told);
        foreach (var property in typeof(PublicationLook).GetProperties().Where(p => p.CanWrite && p.PropertyType == typeof(bool)))
        {
            var changed = before.Look with { };
            property.SetValue(changed, !(bool)property.GetValue(changed)!);
            Assert.Equal(char.ToLowerInvariant(property.Name[0]) + property.Name[1..], Assert.Single(SettingDifference.Between(before, before with { Look = changed })).Choice);
        }
    }
}
