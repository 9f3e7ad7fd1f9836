<script lang="ts">
  import { recordKinds, type Target } from '$lib/core/reachability';

  interface Props {
    target: Target;
    disabled: boolean;
    onChange: (target: Target) => void;
  }
  let { target, disabled, onChange }: Props = $props();
  const statusesOf = (text: string): string[] =>
    text
      .split(/[\s,]+/)
      .map((one) => one.toLowerCase())
      .filter((one) => one !== '');
  const text = (event: { currentTarget: HTMLInputElement }): string => event.currentTarget.value;
</script>

{#if target.kind === 'http'}
  {@const http = target}
  <select
    class="part"
    aria-label="Method"
    {disabled}
    value={http.method}
    onchange={(event) => onChange({ ...http, method: event.currentTarget.value === 'HEAD' ? 'HEAD' : 'GET' })}
    ><option>GET</option><option>HEAD</option></select
  >
  <input
    class="part w-[34ch] max-w-full"
    type="url"
    aria-label="Address"
    placeholder="https://tickets.example.test/"
    {disabled}
    value={http.url}
    oninput={(event) => onChange({ ...http, url: text(event) })}
  />
  has to answer with
  <input
    class="part w-[12ch]"
    aria-label="Statuses"
    title="Such as 200, or 2xx for all of a hundred"
    {disabled}
    value={http.statuses.join(', ')}
    onchange={(event) => onChange({ ...http, statuses: statusesOf(text(event)) })}
  />
  and contain
  <input
    class="part w-[22ch]"
    aria-label="Words of the answer"
    placeholder="anything"
    {disabled}
    value={http.contains}
    oninput={(event) => onChange({ ...http, contains: text(event) })}
  />
{:else if target.kind === 'tcp'}
  {@const tcp = target}
  <input
    class="part w-[26ch]"
    aria-label="Host"
    placeholder="db.example.test"
    {disabled}
    value={tcp.host}
    oninput={(event) => onChange({ ...tcp, host: text(event) })}
  />
  has to take a connection at port
  <input
    class="part w-[8ch]"
    type="number"
    min="1"
    max="65535"
    aria-label="Port"
    {disabled}
    value={tcp.port}
    oninput={(event) => onChange({ ...tcp, port: Number(text(event)) })}
  />
  <select
    class="part"
    aria-label="TLS"
    {disabled}
    value={String(tcp.secure)}
    onchange={(event) => onChange({ ...tcp, secure: event.currentTarget.value === 'true' })}
    ><option value="false">and that is all</option><option value="true">and shake hands by TLS</option></select
  >
{:else}
  {@const dns = target}
  the
  <select
    class="part"
    aria-label="Kind of record"
    {disabled}
    value={dns.record}
    onchange={(event) =>
      onChange({ ...dns, record: recordKinds.find((one) => one === event.currentTarget.value) ?? 'A' })}
    >{#each recordKinds as one (one)}<option>{one}</option>{/each}</select
  >
  record of
  <input
    class="part w-[26ch]"
    aria-label="Name"
    placeholder="tickets.example.test"
    {disabled}
    value={dns.name}
    oninput={(event) => onChange({ ...dns, name: text(event) })}
  />
  at
  <input
    class="part w-[18ch]"
    aria-label="Name server"
    placeholder="the usual name server"
    title="Its address, such as 192.0.2.53, or 192.0.2.53:5353"
    {disabled}
    value={dns.server}
    oninput={(event) => onChange({ ...dns, server: text(event) })}
  />
  has to be
  <input
    class="part w-[20ch]"
    aria-label="Expected answer"
    placeholder="anything"
    {disabled}
    value={dns.is}
    oninput={(event) => onChange({ ...dns, is: text(event) })}
  />
{/if}
{#if (target.kind === 'http' && target.url.startsWith('https:')) || (target.kind === 'tcp' && target.secure)}
  {@const secured = target}
  with
  <select
    class="part"
    aria-label="Certificate"
    {disabled}
    value={String(secured.trusted)}
    onchange={(event) => onChange({ ...secured, trusted: event.currentTarget.value === 'true' })}
    ><option value="true">a certificate that is trusted</option><option value="false">any certificate in date</option
    ></select
  >
{/if}
