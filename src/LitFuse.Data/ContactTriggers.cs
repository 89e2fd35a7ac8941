namespace LitFuse.Data;

/// <summary>
/// The promise that a telephone number or an address on a lead is a contact of it, held by the database for whoever
/// writes: a submission, a step, a person, a service, an import, a merge or its undoing. At the end of a transaction
/// each lead whose number or address was written gets the contact it lacks; where other leads have it, it is shared
/// from then on; and where it is on the do-not-contact list, the lead is too.
/// </summary>
public static class ContactTriggers
{
    /// <summary>For a migration.</summary>
    public const string Sql = """
        create function know_contact(of uuid, as_kind text, as_value text) returns void language plpgsql as $$
        declare lead leads%rowtype;
        begin
          select * into lead from leads where id = of;
          for tries in 1..3 loop
            exit when exists (select from lead_contacts c where c.client_id = lead.client_id and c.kind = as_kind and c.value = as_value and c.test = lead.test and c.lead_id = of);
            update lead_contacts c set shared = true where c.client_id = lead.client_id and c.kind = as_kind and c.value = as_value and c.test = lead.test and not c.shared;
            -- Somebody who writes the same down at this moment is waited for; then it is shared.
            insert into lead_contacts (client_id, kind, value, test, lead_id, shared)
            select lead.client_id, as_kind, as_value, lead.test, of, exists (select from lead_contacts c where c.client_id = lead.client_id and c.kind = as_kind and c.value = as_value and c.test = lead.test)
            on conflict do nothing;
          end loop;
          if lead.do_not_contact_at is null and exists (select from do_not_contact d where d.client_id = lead.client_id and d.kind = as_kind and d.value = as_value) then
            update leads set do_not_contact_at = now() where id = of;
            insert into story (client_id, lead_id, kind, at, known_at, words) values (lead.client_id, of, 'do-not-contact', now(), now(), as_value || ' is on the do-not-contact list: nothing automatic speaks to them');
          end if;
        end $$;

        create function know_lead_by_its_contacts() returns trigger language plpgsql as $$
        declare lead leads%rowtype;
        begin
          -- Nearly always whoever wrote the lead wrote its contacts too: one look, and nothing is to be done. (A value that
          -- was written over since has an event of its own.)
          if new.merged_into is null
            and (new.email is null or (
              exists (select from lead_contacts c where c.client_id = new.client_id and c.kind = 'email' and c.value = new.email and c.test = new.test and c.lead_id = new.id)
              and (new.do_not_contact_at is not null or not exists (select from do_not_contact d where d.client_id = new.client_id and d.kind = 'email' and d.value = new.email))))
            and (new.phone is null or not new.phone_readable or (
              exists (select from lead_contacts c where c.client_id = new.client_id and c.kind = 'phone' and c.value = new.phone and c.test = new.test and c.lead_id = new.id)
              and (new.do_not_contact_at is not null or not exists (select from do_not_contact d where d.client_id = new.client_id and d.kind = 'phone' and d.value = new.phone))))
          then return null; end if;
          select * into lead from leads where id = new.id;
          if not found or lead.merged_into is not null then return null; end if;
          if lead.email is not null then perform know_contact(lead.id, 'email', lead.email); end if;
          if lead.phone is not null and lead.phone_readable then perform know_contact(lead.id, 'phone', lead.phone); end if;
          return null;
        end $$;

        create constraint trigger leads_are_known_by_their_contacts after insert or update of email, phone, phone_readable, merged_into on leads
          deferrable initially deferred for each row execute function know_lead_by_its_contacts();
        """;
}
