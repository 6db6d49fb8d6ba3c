using Mono.Cecil;
using Mono.Cecil.Cil;

namespace Valtro.Server.Tests;

/// <summary>
/// One way in, one way out, held by what the compiled code refers to: nothing but the command handler writes an event, and
/// nothing but the views reads one. Whoever goes round it fails here, with the place named.
/// </summary>
public sealed class ArchitectureTests
{
    private const string Event = "Valtro.Core.Events.Event";

    // Where whole events are at hand: the way in, the way out, and what only computes from what somebody says.
    private static readonly string[] Ways = ["Valtro.Server.Commands", "Valtro.Server.Views"];

    private static readonly ModuleDefinition Server = ModuleDefinition.ReadModule(typeof(Program).Assembly.Location);
    private static readonly ModuleDefinition Store = ModuleDefinition.ReadModule(typeof(Store.Connections).Assembly.Location);
    private static readonly ModuleDefinition Core = ModuleDefinition.ReadModule(typeof(Core.Views.EventView).Assembly.Location);

    private static IEnumerable<TypeDefinition> All(ModuleDefinition module) => module.Types.SelectMany(Nested);

    private static IEnumerable<TypeDefinition> Nested(TypeDefinition type) => type.NestedTypes.SelectMany(Nested).Prepend(type);

    private static string Top(TypeDefinition type) => type.DeclaringType is { } outer ? Top(outer) : type.FullName;

    private static bool IsIn(TypeDefinition type, params string[] rooms)
    {
        var top = Top(type);
        return rooms.Any(r => top == r || top.StartsWith(r + ".", StringComparison.Ordinal));
    }

    private static IEnumerable<string> Named(TypeReference? type) => type switch
    {
        null => [],
        GenericInstanceType generic => generic.GenericArguments.SelectMany(Named).Concat(Named(generic.ElementType)),
        TypeSpecification other => Named(other.ElementType),
        _ => [type.FullName],
    };

    /// <summary>Every type and member that a type refers to, in its shape and in its code.</summary>
    private static IEnumerable<string> Uses(TypeDefinition type)
    {
        foreach (var name in Named(type.BaseType).Concat(type.Interfaces.SelectMany(i => Named(i.InterfaceType))).Concat(type.Fields.SelectMany(f => Named(f.FieldType))))
            yield return name;
        foreach (var method in type.Methods)
        {
            foreach (var name in Named(method.ReturnType).Concat(method.Parameters.SelectMany(p => Named(p.ParameterType))))
                yield return name;
            if (!method.HasBody)
                continue;
            foreach (var name in method.Body.Variables.SelectMany(v => Named(v.VariableType)))
                yield return name;
            foreach (var instruction in method.Body.Instructions)
            {
                switch (instruction.Operand)
                {
                    case MethodReference called:
                        yield return $"{called.DeclaringType.FullName}::{called.Name}";
                        foreach (var name in Named(called.ReturnType).Concat(called.Parameters.SelectMany(p => Named(p.ParameterType))).Concat(called is GenericInstanceMethod g ? g.GenericArguments.SelectMany(Named) : []))
                            yield return name;
                        break;
                    case FieldReference field:
                        foreach (var name in Named(field.FieldType))
                            yield return name;
                        break;
                    case TypeReference named:
                        foreach (var name in Named(named))
                            yield return name;
                        break;
                    default:
                        break;
                }
            }
        }
    }

    private static void NobodyUses(ModuleDefinition module, Func<string, bool> isUsed, params string[] rooms)
    {
        var found = All(module).Where(t => !IsIn(t, rooms)).SelectMany(t => Uses(t).Where(isUsed).Select(u => $"{t.FullName} uses {u}")).Distinct().Order().ToList();
        Assert.True(found.Count == 0, string.Join('\n', found));
    }

    [Fact]
    public void Nothing_but_the_command_handler_writes_an_event()
    {
        NobodyUses(Server, u => u.StartsWith("Valtro.Store.CommandWork", StringComparison.Ordinal), "Valtro.Server.Commands");
        // In the store the table is written in one place.
        var writes = All(Store)
            .SelectMany(t => t.Methods.Where(m => m.HasBody).SelectMany(m => m.Body.Instructions.Where(i => i.OpCode == OpCodes.Ldstr).Select(i => (Type: t, Text: (string)i.Operand))))
            .Where(w => System.Text.RegularExpressions.Regex.IsMatch(w.Text, @"\b(insert\s+into|update|delete\s+from)\s+event\b", System.Text.RegularExpressions.RegexOptions.IgnoreCase))
            .Select(w => Top(w.Type)).Distinct().Order();
        // The second empties the bin, for the same handler.
        Assert.Equal(["Valtro.Store.CommandWork", "Valtro.Store.Events"], writes);
    }

    [Fact]
    public void Nothing_but_a_view_is_shown() =>
        NobodyUses(
            Server,
            u => u == Event || u.StartsWith(Event + "::", StringComparison.Ordinal) && !u.EndsWith("::Create", StringComparison.Ordinal),
            [
                .. Ways,
                // A state that somebody sends, for a command; and the dates of what they are typing.
                "Valtro.Server.Events.EventDto", "Valtro.Server.Events.PutBack", "Valtro.Server.Events.EditInput", "Valtro.Server.Events.EditEvents",
                "Valtro.Server.Events.ChangeMany", "Valtro.Server.Events.TypedDates", "Valtro.Server.Proposals.ProposalEndpoints",
                // What the demo begins with.
                "Valtro.Server.Demo",
            ]);

    [Fact]
    public void What_is_kept_of_events_is_read_by_the_two_ways_alone()
    {
        NobodyUses(Server, u => u.StartsWith("Valtro.Store.Events::", StringComparison.Ordinal), Ways);
        NobodyUses(Server, u => u.StartsWith("Valtro.Store.Publications::ContentsAsync", StringComparison.Ordinal), Ways);
        NobodyUses(Server, u => u is "Valtro.Core.Proposals.Proposal" || u.StartsWith("Valtro.Core.Proposals.Proposal::", StringComparison.Ordinal), [.. Ways, "Valtro.Server.Proposals.ProposalEndpoints"]);
    }

    [Fact]
    public void A_view_is_made_by_eyes_alone_and_changed_by_nobody_outside_the_core()
    {
        var view = Core.GetType("Valtro.Core.Views.EventView");
        // A record's own ways to copy it are within it.
        Assert.All(view.Methods.Where(m => m.IsConstructor && !m.IsStatic), c => Assert.False(c.IsPublic));
        Assert.All(view.Properties.Where(p => p.SetMethod is not null), p => Assert.False(p.SetMethod.IsPublic, p.Name));
        NobodyUses(Core, u => u == "Valtro.Core.Views.EventView::.ctor", "Valtro.Core.Views.EventView", "Valtro.Core.Views.Eyes");
        // Nor does a view hold an event.
        Assert.DoesNotContain(view.Fields, f => Named(f.FieldType).Contains(Event));
    }

    [Fact]
    public void What_goes_out_is_written_from_views()
    {
        foreach (var room in new[] { "Valtro.Core.ICalendar", "Valtro.Core.Clashes" })
        {
            var found = All(Core).Where(t => IsIn(t, room)).SelectMany(t => Uses(t).Where(u => u == Event).Select(_ => t.FullName)).Distinct();
            Assert.Empty(found);
        }
        Assert.DoesNotContain(All(Server).Where(t => IsIn(t, "Valtro.Server.Outlets")).SelectMany(Uses), u => u == Event);
    }

    [Fact]
    public void Somebody_who_goes_round_is_found()
    {
        // The checks see into lambdas and asynchronous code: the ways themselves would be found.
        var uses = All(Server).Where(t => IsIn(t, "Valtro.Server.Views")).SelectMany(Uses).ToHashSet();
        Assert.Contains(Event, uses);
        Assert.Contains("Valtro.Store.Events::InWindowAsync", uses);
        Assert.Contains(All(Server).Where(t => IsIn(t, "Valtro.Server.Commands")).SelectMany(Uses), u => u.StartsWith("Valtro.Store.CommandWork::SaveAsync", StringComparison.Ordinal));
    }
}
