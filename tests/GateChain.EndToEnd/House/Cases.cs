using System.Text;

namespace GateChain.EndToEnd.House;

/// <summary>Many cases on one service: starting one for each would take most of the time.</summary>
static class Cases
{
    /// <summary>Tries all of them; each that is wrong is told, with what is wrong.</summary>
    public static async Task AllAsync<T>(IEnumerable<T> cases, Func<T, Task> work)
    {
        var wrong = new StringBuilder();
        foreach (var one in cases)
        {
            try
            {
                await work(one);
            }
            catch (Exception e)
            {
                wrong.Append(one).Append('\n').Append(e.Message).Append('\n');
            }
        }
        Assert.True(wrong.Length == 0, wrong.ToString());
    }
}
