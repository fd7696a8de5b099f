using NodaTime;
using Npgsql;
using Relevo.Core.Rollouts;

namespace Relevo.Data;

/// <summary>How deliveries' rows are asked for and read, the same for everybody who does.</summary>
internal static class DeliveryRows
{
    public const string StandingColumns =
        "delivery.state, delivery.wanted_tag, delivery.told_tag, delivery.held_tag, delivery.differing, delivery.trouble, delivery.failures, delivery.next_attempt_at, delivery.is_set_aside, delivery.recipe, delivery.held_recipe";

    // The newest rollout says which edition its waves that have begun are to hold; everybody else keeps what was planned for them.
    private const string WithRollout = "left join wave on wave.rollout_id = member.rollout_id and wave.number = member.wave left join rollout on rollout.id = member.rollout_id";

    public const string FromDeliveries = $"from client join delivery on delivery.client_id = client.id left join rollout_member member on member.person_id = client.person_id {WithRollout}";

    // For a few clients among many: with the plain join the planner may rather read every member there is.
    public const string FromFewDeliveries =
        $"from client join delivery on delivery.client_id = client.id left join lateral (select rollout_id, wave from rollout_member where person_id = client.person_id limit 1) member on true {WithRollout}";

    public const string Edition = "case when wave.state <> 'waits' then rollout.edition else delivery.edition end";

    public const string IsPlanned = $"(delivery.recipe is not null and delivery.edition is not distinct from {Edition})";

    public const string Columns = $"{ClientStore.Columns}, {Edition}, {StandingColumns}, coalesce(rollout.state = 'paused', false), delivery.is_fixed, {IsPlanned}, delivery.xmin";

    // One that is to hold another edition and is not planned yet waits, whatever it holds from before.
    public const string StateNow = $"case when {Edition} <> delivery.edition then 'waits' else delivery.state end";

    /// <summary>A state as it is kept.</summary>
    public static DeliveryState State(string text) => Enum.Parse<DeliveryState>(text, ignoreCase: true);

    /// <summary>Equal in everything, what differs among it.</summary>
    public static bool Same(DeliveryStanding left, DeliveryStanding right) => left with { Differing = right.Differing } == right && left.Differing.SequenceEqual(right.Differing);

    /// <summary>Reads <see cref="Columns"/>.</summary>
    public static ClientDelivery ReadDelivery(NpgsqlDataReader row) =>
        new(ClientStore.ReadClient(row, 0), row.Maybe<int?>(8), ReadStanding(row, 9), row.GetBoolean(20)) { IsFixed = row.GetBoolean(21), IsPlanned = row.GetBoolean(22), Version = row.GetFieldValue<uint>(23) };

    /// <summary>Reads <see cref="StandingColumns"/>, which begin at a column.</summary>
    public static DeliveryStanding ReadStanding(NpgsqlDataReader row, int column) => new(
        State(row.GetString(column)),
        row.GetString(column + 1),
        row.GetString(column + 2),
        row.GetString(column + 3),
        [.. row.GetFieldValue<string[]>(column + 4)],
        row.GetString(column + 5),
        row.GetInt32(column + 6),
        row.Maybe<DateTimeOffset?>(column + 7) is { } next ? Instant.FromDateTimeOffset(next) : null,
        row.GetBoolean(column + 8))
    { Recipe = row.Maybe<Guid?>(column + 9), HeldRecipe = row.Maybe<Guid?>(column + 10) };
}
