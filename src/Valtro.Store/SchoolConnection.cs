using System.Data;
using System.Data.Common;
using System.Diagnostics.CodeAnalysis;
using Npgsql;

namespace Valtro.Store;

/// <summary>
/// A connection that sees what belongs to one school. The school goes along with every command, in the same round trip and for its
/// transaction alone, so nothing of it stays on the connection: whoever has that next, another server through a proxy that hands
/// connections out by the transaction too, sees nothing of it.
/// </summary>
internal sealed class SchoolConnection : DbConnection
{
    private const string Parameter = "valtro_school";

    // Several commands sent at once are one transaction, also without BEGIN (PostgreSQL manual, 53.2.4 pipelining).
    private const string Preface = $"select set_config('valtro.school', @{Parameter}, true);\n";

    private readonly NpgsqlConnection inner;
    private readonly OftenAsked often;
    private readonly string school;

    /// <param name="inner">An open connection; it is disposed with this one.</param>
    /// <param name="schoolId">The school; null for none.</param>
    /// <param name="often">What is asked often.</param>
    public SchoolConnection(NpgsqlConnection inner, Guid? schoolId, OftenAsked often)
    {
        (this.inner, this.often) = (inner, often);
        school = $"{schoolId:D}";
    }

    [AllowNull]
    public override string ConnectionString
    {
        get => inner.ConnectionString;
        set => throw new NotSupportedException();
    }

    public override string Database => inner.Database;

    public override string DataSource => inner.DataSource;

    public override string ServerVersion => inner.ServerVersion;

    public override ConnectionState State => inner.State;

    public override void ChangeDatabase(string databaseName) => throw new NotSupportedException();

    public override void Open() => throw new NotSupportedException();

    public override void Close() => inner.Close();

    public override Task CloseAsync() => inner.CloseAsync();

    public override async ValueTask DisposeAsync()
    {
        await inner.DisposeAsync();
        await base.DisposeAsync();
    }

    protected override void Dispose(bool disposing)
    {
        if (disposing)
            inner.Dispose();
        base.Dispose(disposing);
    }

    protected override DbTransaction BeginDbTransaction(IsolationLevel isolationLevel) => inner.BeginTransaction(isolationLevel);

    protected override async ValueTask<DbTransaction> BeginDbTransactionAsync(IsolationLevel isolationLevel, CancellationToken cancellationToken) =>
        await inner.BeginTransactionAsync(isolationLevel, cancellationToken);

    protected override DbCommand CreateDbCommand() => new SchoolCommand(this, inner.CreateCommand());

    private sealed class SchoolCommand(SchoolConnection connection, NpgsqlCommand inner) : DbCommand
    {
        private string text = "";

        [AllowNull]
        public override string CommandText
        {
            get => text;
            set
            {
                text = value ?? "";
                inner.CommandText = Preface + text;
            }
        }

        public override int CommandTimeout
        {
            get => inner.CommandTimeout;
            set => inner.CommandTimeout = value;
        }

        public override CommandType CommandType
        {
            get => inner.CommandType;
            set => inner.CommandType = value == CommandType.Text ? value : throw new NotSupportedException();
        }

        public override bool DesignTimeVisible { get; set; }

        public override UpdateRowSource UpdatedRowSource
        {
            get => inner.UpdatedRowSource;
            set => inner.UpdatedRowSource = value;
        }

        protected override DbConnection? DbConnection
        {
            get => connection;
            set
            {
                if (value != connection)
                    throw new NotSupportedException();
            }
        }

        protected override DbParameterCollection DbParameterCollection => inner.Parameters;

        protected override DbTransaction? DbTransaction
        {
            get => inner.Transaction;
            set => inner.Transaction = (NpgsqlTransaction?)value;
        }

        public override void Cancel() => inner.Cancel();

        public override void Prepare() => throw new NotSupportedException();

        public override int ExecuteNonQuery()
        {
            if (Ready())
                inner.Prepare();
            return inner.ExecuteNonQuery();
        }

        public override async Task<int> ExecuteNonQueryAsync(CancellationToken cancellationToken)
        {
            if (Ready())
                await inner.PrepareAsync(cancellationToken);
            return await inner.ExecuteNonQueryAsync(cancellationToken);
        }

        public override object? ExecuteScalar()
        {
            using var reader = ExecuteDbDataReader(CommandBehavior.Default);
            return reader.Read() && reader.FieldCount > 0 ? reader.GetValue(0) : null;
        }

        public override async Task<object?> ExecuteScalarAsync(CancellationToken cancellationToken)
        {
            await using var reader = await ExecuteDbDataReaderAsync(CommandBehavior.Default, cancellationToken);
            return await reader.ReadAsync(cancellationToken) && reader.FieldCount > 0 ? reader.GetValue(0) : null;
        }

        protected override DbParameter CreateDbParameter() => inner.CreateParameter();

        protected override DbDataReader ExecuteDbDataReader(CommandBehavior behavior)
        {
            if (Ready())
                inner.Prepare();
            var reader = inner.ExecuteReader(WithAllResults(behavior));
            try
            {
                reader.NextResult();
                return reader;
            }
            catch
            {
                reader.Dispose();
                throw;
            }
        }

        protected override async Task<DbDataReader> ExecuteDbDataReaderAsync(CommandBehavior behavior, CancellationToken cancellationToken)
        {
            if (Ready())
                await inner.PrepareAsync(cancellationToken);
            var reader = await inner.ExecuteReaderAsync(WithAllResults(behavior), cancellationToken);
            try
            {
                await reader.NextResultAsync(cancellationToken);
                return reader;
            }
            catch
            {
                await reader.DisposeAsync();
                throw;
            }
        }

        public override async ValueTask DisposeAsync()
        {
            await inner.DisposeAsync();
            await base.DisposeAsync();
        }

        protected override void Dispose(bool disposing)
        {
            if (disposing)
                inner.Dispose();
            base.Dispose(disposing);
        }

        // Whether its plan is to be kept. Whoever runs a command anew may have taken all its parameters from it.
        private bool Ready()
        {
            if (!inner.Parameters.Contains(Parameter))
                inner.Parameters.Add(new NpgsqlParameter<string>(Parameter, connection.school));
            return connection.often.Is(text);
        }

        // What the school's own command answers is the first result; who asks wants the second.
        private static CommandBehavior WithAllResults(CommandBehavior behavior) => behavior & ~(CommandBehavior.SingleResult | CommandBehavior.SingleRow);
    }
}
