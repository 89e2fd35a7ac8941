namespace LitFuse.Data;

/// <summary>
/// The triggers behind <see cref="Client.Revision"/>: whatever changes a client's setup, by whatever way, counts it up.
/// </summary>
public static class RevisionTriggers
{
    /// <summary>For a migration.</summary>
    public const string Sql = """
        create function count_up_client() returns trigger language plpgsql as $$
        begin
          if new.revision = old.revision then new.revision := old.revision + 1; end if;
          return new;
        end $$;
        create trigger count_up before update on clients for each row execute function count_up_client();

        create function count_up_client_of() returns trigger language plpgsql as $$
        begin
          update clients set revision = revision + 1 where id = coalesce(new.client_id, old.client_id);
          return null;
        end $$;
        create trigger count_up after insert or update or delete on forms for each row execute function count_up_client_of();
        create trigger count_up after insert or update or delete on form_maps for each row execute function count_up_client_of();
        create trigger count_up after insert or update or delete on fuses for each row execute function count_up_client_of();
        create trigger count_up after insert or update or delete on connections for each row execute function count_up_client_of();
        -- Lead fields too, since they say how answers are read.
        create trigger count_up after insert or update or delete on lead_fields for each row execute function count_up_client_of();

        -- People too, since fuses reach them; how often they sign in is no part of any setup.
        create function count_up_all_clients() returns trigger language plpgsql as $$
        begin
          update clients set revision = revision + 1;
          return null;
        end $$;
        create trigger count_up_clients after insert or update or delete on memberships for each statement execute function count_up_all_clients();
        create trigger count_up_clients after update of name, email, test_phone, test_email, test_person on users for each statement execute function count_up_all_clients();
        """;
}
