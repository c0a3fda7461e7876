using System.Globalization;
using System.Security.Cryptography;
using System.Text;
using System.Text.Json.Nodes;
using GateChain.Core.Datasets;
using GateChain.Core.Lineage;
using GateChain.Core.Running.Events;
using GateChain.Core.Running.State;

namespace GateChain.Engine.Lineage;

/// <summary>
/// Tells a leg of a run that has ended as events of OpenLineage 2.0: its begin and its end, and in it those of each
/// step that reads or writes data, all iterations of one together. Pure: the same leg gives the same events, with the
/// same ids, however often it is told.
/// </summary>
/// <param name="space">The namespace of the jobs.</param>
/// <param name="version">The version of the program.</param>
sealed class LineageEvents(string space, string version)
{
    // Sources of one event that are told; a pattern may have found very many.
    const int Most = 1_000;

    const string Spec = "https://openlineage.io/spec";

    readonly string _producer = $"urn:gatechain:{version}";

    sealed record Span(DateTimeOffset Began, DateTimeOffset Ended);

    /// <summary>A leg of a run, as far as others refer to it.</summary>
    public sealed record Leg(string Uid, int Number, string Chain);

    /// <summary>The events of a run's latest leg.</summary>
    /// <param name="run">The run.</param>
    /// <param name="caller">The leg that called it; null when none did.</param>
    /// <param name="names">Names data.</param>
    /// <param name="attachment">The text of an attachment; null when it is not there.</param>
    public IReadOnlyList<JsonObject> Of(RunState run, Leg? caller, DatasetNames names, Func<string, string?> attachment)
    {
        var data = ChainData.Seen(run, attachment);
        var steps = run.AllSteps.Where(s => s.Leg == run.Leg && s.Attempt > 0).ToLookup(s => s.Step.Address);
        var addresses = steps.SelectMany(g => g).ToDictionary(s => s.Path, s => s.Step.Address);
        var spans = run
            .Attempts.Where(a => a.Leg == run.Leg && addresses.ContainsKey(a.Step))
            .GroupBy(a => addresses[a.Step])
            .ToDictionary(g => g.Key, g => new Span(g.Min(a => a.Started), g.Max(a => a.Ended ?? a.Started)));
        var ended = run.Ended ?? spans.Values.Select(s => s.Ended).DefaultIfEmpty().Max();
        var began =
            run.Leg == 1 && run.Started is { } first ? first
            : spans.Count > 0 ? spans.Values.Min(s => s.Began)
            : ended;
        var leg = new Leg(run.Uid, run.Leg, run.Chain.Name);
        var (id, name) = (IdOf(leg, ""), leg.Chain);
        var above = caller is null ? null : Parent(IdOf(caller, ""), caller.Chain);
        var events = new List<JsonObject>
        {
            Event("START", began, id, name, above, null, [], names),
            Event(End(run.Word), ended, id, name, above, run.Error, data, names),
        };
        foreach (var step in data.GroupBy(d => d.Step).Where(g => spans.ContainsKey(g.Key)))
        {
            var failed = steps[step.Key].FirstOrDefault(s => s.Error is not null);
            var (own, job) = (IdOf(leg, step.Key), $"{name}.{step.Key}");
            var within = Parent(id, name);
            var span = spans[step.Key];
            events.Add(Event("START", span.Began, own, job, within, null, [], names));
            var word = failed is null ? "succeeded" : "failed";
            events.Add(Event(End(word), span.Ended, own, job, within, failed?.Error, step, names));
        }
        return events;
    }

    static string End(string word) =>
        word switch
        {
            "failed" => "FAIL",
            "stopped" => "ABORT",
            _ => "COMPLETE",
        };

    // Of what it names: version 8 of RFC 9562 is for ids of one's own making.
    static Guid IdOf(Leg leg, string step)
    {
        var text = string.Create(CultureInfo.InvariantCulture, $"{leg.Uid}/{leg.Number}/{step}");
        var bytes = SHA256.HashData(Encoding.UTF8.GetBytes(text)).AsSpan(0, 16);
        bytes[6] = (byte)((bytes[6] & 0x0f) | 0x80);
        bytes[8] = (byte)((bytes[8] & 0x3f) | 0x80);
        return new Guid(bytes, bigEndian: true);
    }

    JsonObject Event(
        string type,
        DateTimeOffset at,
        Guid run,
        string job,
        JsonObject? parent,
        StepError? error,
        IEnumerable<StepData> data,
        DatasetNames names
    )
    {
        var facets = new JsonObject();
        if (parent is not null)
            facets["parent"] = parent.DeepClone();
        if (error is not null)
        {
            facets["errorMessage"] = Facet(
                "facets/1-0-1/ErrorMessageRunFacet.json#/$defs/ErrorMessageRunFacet",
                ("message", $"{error.Code}: {error.Message}"),
                ("programmingLanguage", "chain")
            );
        }
        var uses = data.Select(d => d.Use).ToList();
        return new JsonObject
        {
            ["eventType"] = type,
            ["eventTime"] = at.UtcDateTime.ToString("yyyy-MM-dd'T'HH:mm:ss.fff'Z'", CultureInfo.InvariantCulture),
            ["producer"] = _producer,
            ["schemaURL"] = $"{Spec}/2-0-2/OpenLineage.json#/$defs/RunEvent",
            ["run"] = new JsonObject { ["runId"] = run.ToString(), ["facets"] = facets },
            ["job"] = new JsonObject
            {
                ["namespace"] = space,
                ["name"] = job,
                ["facets"] = new JsonObject(),
            },
            ["inputs"] = Datasets(uses, DataDirection.Reads, names),
            ["outputs"] = Datasets(uses, DataDirection.Writes, names),
        };
    }

    static JsonArray Datasets(IEnumerable<DataUse> uses, DataDirection direction, DatasetNames names) =>
        [
            .. uses.Where(u => u.Direction == direction)
                .Select(u => names.Of(u.Data))
                .Distinct()
                .Take(Most)
                .Select(n => new JsonObject { ["namespace"] = n.Namespace, ["name"] = n.Name }),
        ];

    JsonObject Parent(Guid run, string job)
    {
        var facet = Facet("facets/1-0-1/ParentRunFacet.json#/$defs/ParentRunFacet");
        facet["run"] = new JsonObject { ["runId"] = run.ToString() };
        facet["job"] = new JsonObject { ["namespace"] = space, ["name"] = job };
        return facet;
    }

    JsonObject Facet(string schema, params ReadOnlySpan<(string Name, string Value)> more)
    {
        var facet = new JsonObject { ["_producer"] = _producer, ["_schemaURL"] = $"{Spec}/{schema}" };
        foreach (var (name, value) in more)
            facet[name] = value;
        return facet;
    }
}
