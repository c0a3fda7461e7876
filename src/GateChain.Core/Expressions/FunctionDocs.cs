namespace GateChain.Core.Expressions;

/// <summary>What a function, operator or macro is for, with an example that can be evaluated as it stands.</summary>
/// <param name="Group">What kind of values it is about.</param>
/// <param name="Name">The name as the catalogue has it; macros and <c>has</c> by theirs.</param>
/// <param name="Doc">What it does.</param>
/// <param name="Example">An expression without names from outside.</param>
public sealed record FunctionDoc(string Group, string Name, string Doc, string Example);

/// <summary>
/// The worked examples of the expression language. <c>docs/expressions.md</c> is made from them; a test holds them to
/// the catalogue.
/// </summary>
public static class FunctionDocs
{
    public static IReadOnlyList<FunctionDoc> All { get; } = [.. Lines().Select(Read)];

    static IEnumerable<(string Group, string Line)> Lines()
    {
        var group = "";
        foreach (var line in Table.Split('\n', StringSplitOptions.RemoveEmptyEntries))
        {
            if (line[0] == '#')
                group = line[2..];
            else
                yield return (group, line);
        }
    }

    static FunctionDoc Read((string Group, string Line) row)
    {
        var parts = row.Line.Split(" ~ ");
        return new(row.Group, parts[0], parts[1], parts[2]);
    }

    const string Table = """
        # Operators
        _+_ ~ adds numbers, joins texts, bytes and lists, moves timestamps ~ [1, 2] + [3]
        _-_ ~ subtracts; between two timestamps it gives the duration ~ timestamp('2026-11-23T06:00:00Z') - timestamp('2026-11-22T06:00:00Z')
        _*_ ~ multiplies ~ 6 * 7
        _/_ ~ divides; between whole numbers it leaves out the rest ~ 7 / 2
        _%_ ~ the rest of a division of whole numbers ~ 7 % 2
        -_ ~ the negative ~ -(3 - 5)
        !_ ~ not ~ !(1 > 2)
        _==_ ~ equal; numbers by their value ~ 1 == 1.0
        _!=_ ~ not equal ~ 'north' != 'south'
        _<_ ~ less; works between numbers, texts, bools, timestamps and durations ~ 'north' < 'south'
        _<=_ ~ less or equal ~ 2 <= 2
        _>_ ~ greater ~ duration('2h') > duration('90m')
        _>=_ ~ greater or equal ~ 1 >= 2
        @in ~ whether a list holds a value, or a map a key ~ 'west' in ['north', 'west']
        _[_] ~ an item of a list from 0, or the value of a key ~ {'north': 3}['north']
        _[?_] ~ the same as an optional, empty where there is none ~ [1, 2][?5]
        &&, || ~ and, or; an error on one side does not matter when the other side decides ~ true || 1 / 0 > 1
        ? : ~ one of two values ~ 3 > 2 ? 'more' : 'less'
        # Conversions
        int ~ a whole number of 64 bits ~ int('42')
        uint ~ a whole number without sign ~ uint(42)
        double ~ a number with a fraction ~ double('1.5')
        decimal ~ an exact number of up to 38 digits, from text or a whole number; + - * with it are exact, and whole numbers may stand on the other side ~ decimal('0.10') + decimal('0.20')
        string ~ text ~ string(timestamp('2026-11-23T06:00:00Z'))
        bool ~ true or false ~ bool('true')
        bytes ~ the UTF-8 bytes of a text ~ size(bytes('é'))
        timestamp ~ a moment, from RFC 3339 or seconds since 1970 ~ timestamp('2026-11-23T06:00:00+01:00')
        duration ~ a length of time, at most 292 years ~ duration('1h30m')
        dyn ~ the value as of any type, past the checker ~ dyn(1) == 'a'
        type ~ the type of a value ~ type(1.5) == double
        # Texts
        size ~ characters of a text, bytes, items or entries ~ size('müde')
        contains ~ whether a text stands in another ~ 'pickups-2026.csv'.contains('2026')
        startsWith ~ whether it begins so ~ 'pickups.csv'.startsWith('pick')
        endsWith ~ whether it ends so ~ 'pickups.csv'.endsWith('.csv')
        matches ~ whether a regular expression is found in it; in linear time ~ 'P-0042'.matches('^P-[0-9]{4}$')
        charAt ~ the character at a place, from 0 ~ 'north'.charAt(0)
        indexOf ~ where a text stands first, -1 for nowhere; a second argument says from where on ~ 'a-b-c'.indexOf('-', 2)
        lastIndexOf ~ where it stands last ~ 'a-b-c'.lastIndexOf('-')
        substring ~ from a place, and up to another ~ 'pickups.csv'.substring(0, 7)
        replace ~ puts a text in the place of another; a third argument limits how often ~ 'a-b-c'.replace('-', '/', 1)
        split ~ cuts at a separator; a second argument limits the parts ~ 'north,south'.split(',')
        join ~ joins a list of texts ~ ['north', 'south'].join(' and ')
        trim ~ without white space at both ends ~ '  north '.trim()
        lowerAscii ~ ASCII letters small ~ 'North'.lowerAscii()
        upperAscii ~ ASCII letters capital ~ 'north'.upperAscii()
        reverse ~ a text or a list from its end ~ 'abc'.reverse()
        format ~ fills in %s %d %f %e %b %o %x %X; %.2f says how many digits ~ '%s: %.2f l'.format(['north', 12.345])
        strings.quote ~ in quotes, with escapes ~ strings.quote('a "b"')
        base64.encode ~ bytes as base64 ~ base64.encode(b'milk')
        base64.decode ~ base64 as bytes ~ string(base64.decode('bWlsaw=='))
        # Numbers
        math.greatest ~ the greatest of any number of numbers, or of a list ~ math.greatest(3, 7, 5)
        math.least ~ the least ~ math.least([3.5, 2.0])
        math.abs ~ without its sign ~ math.abs(-3)
        math.sign ~ -1, 0 or 1 ~ math.sign(-3)
        math.ceil ~ up to the next whole number ~ math.ceil(1.2)
        math.floor ~ down ~ math.floor(-1.2)
        math.round ~ to the nearest; halves away from 0. A decimal is told how many digits stay behind the point, and halves go to the even one ~ math.round(decimal('2.345'), 2)
        math.divide ~ divides decimals, to so many digits after the decimal point; halves go to the even one ~ math.divide(decimal('10.00'), 3, 2)
        math.trunc ~ without its fraction ~ math.trunc(-1.8)
        math.sqrt ~ the square root ~ math.sqrt(9)
        math.isNaN ~ whether it is no number ~ math.isNaN(0.0 / 0.0)
        math.isInf ~ whether it is infinite ~ math.isInf(1.0 / 0.0)
        math.isFinite ~ whether it is neither ~ math.isFinite(1.5)
        math.bitAnd ~ bits that are set in both ~ math.bitAnd(6, 3)
        math.bitOr ~ bits that are set in one ~ math.bitOr(6, 3)
        math.bitXor ~ bits that are set in just one ~ math.bitXor(6, 3)
        math.bitNot ~ all bits turned ~ math.bitNot(0)
        math.bitShiftLeft ~ bits moved up ~ math.bitShiftLeft(1, 4)
        math.bitShiftRight ~ bits moved down, zeros behind them ~ math.bitShiftRight(16, 2)
        # Times
        getFullYear ~ the year, in UTC or in a zone ~ timestamp('2026-11-23T06:00:00Z').getFullYear()
        getMonth ~ the month from 0 ~ timestamp('2026-11-23T06:00:00Z').getMonth()
        getDate ~ the day of the month from 1 ~ timestamp('2026-11-23T23:30:00Z').getDate('Europe/Rome')
        getDayOfMonth ~ the day of the month from 0 ~ timestamp('2026-11-23T06:00:00Z').getDayOfMonth()
        getDayOfWeek ~ the day of the week, 0 for Sunday ~ timestamp('2026-11-23T06:00:00Z').getDayOfWeek()
        getDayOfYear ~ the day of the year from 0 ~ timestamp('2026-11-23T06:00:00Z').getDayOfYear()
        getHours ~ the hour; of a duration, all its hours ~ duration('26h30m').getHours()
        getMinutes ~ the minute; of a duration, all its minutes ~ duration('1h30m').getMinutes()
        getSeconds ~ the second; of a duration, all its seconds ~ duration('2m').getSeconds()
        getMilliseconds ~ the milliseconds of the second ~ timestamp('2026-11-23T06:00:00.250Z').getMilliseconds()
        # Lists and maps
        all ~ whether a condition holds for all; with two variables they are index and item, or key and value ~ [3, 5].all(n, n > 2)
        exists ~ whether it holds for one ~ {'north': 3}.exists(name, n, n > 2)
        exists_one ~ whether it holds for just one; also existsOne ~ [1, 2, 3].exists_one(n, n > 2)
        filter ~ those for which it holds ~ [1, 2, 3].filter(n, n % 2 == 1)
        map ~ something made of each; a condition in the middle leaves some out ~ [1, 2, 3].map(n, n > 1, n * n)
        transformList ~ a list made of index and item, or key and value ~ ['a', 'b'].transformList(i, s, s + string(i))
        transformMap ~ a map with other values ~ {'north': 3}.transformMap(name, n, n * 2)
        transformMapEntry ~ a map made of maps of one entry ~ {'north': 3}.transformMapEntry(name, n, {n: name})
        sort ~ in order ~ [3, 1, 2].sort()
        sortBy ~ in the order of something made of each ~ ['pear', 'fig'].sortBy(s, size(s))
        distinct ~ each value once ~ [1, 2, 1].distinct()
        flatten ~ lists in a list, one level down or as many as said ~ [[1], [2, [3]]].flatten()
        slice ~ from an index up to before another ~ [1, 2, 3, 4].slice(1, 3)
        first ~ the first item as an optional ~ [1, 2].first()
        last ~ the last ~ [].last()
        lists.range ~ the numbers from 0 to before one ~ lists.range(3)
        # What may be missing
        has ~ whether a key is there ~ has({'a': 1}.b)
        optional.of ~ an optional that holds a value ~ optional.of(1)
        optional.none ~ one that holds nothing ~ optional.none()
        optional.ofNonZeroValue ~ one that holds nothing for 0, '' and their like ~ optional.ofNonZeroValue('')
        hasValue ~ whether it holds something ~ {'a': 1}.?b.hasValue()
        value ~ what it holds; an error when nothing ~ {'a': 1}.?a.value()
        orValue ~ what it holds, or something else ~ {'a': 1}.?b.orValue(0)
        or ~ the first of two that holds something ~ {'a': 1}.?b.or(optional.of(2)).value()
        optMap ~ something made of what it holds ~ {'a': 2}.?a.optMap(n, n * 2)
        optFlatMap ~ the same, where that is an optional itself ~ {'a': {'b': 1}}.?a.optFlatMap(m, m.?b)
        # Names within an expression
        cel.bind ~ computes a value once and gives it a name ~ cel.bind(n, 3 + 4, n * n)
        """;
}
