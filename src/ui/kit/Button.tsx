import type { ButtonHTMLAttributes, ReactNode } from 'react';

type Look = 'plain' | 'primary' | 'quiet';

const LOOKS: Readonly<Record<Look, string>> = {
  plain: 'border border-edge bg-card text-ink hover:border-clay',
  primary: 'border border-clay bg-clay font-semibold text-on-clay hover:brightness-110',
  quiet: 'border border-transparent text-soft hover:text-ink hover:border-line',
};

/** The class names of a button, also for links that look like one. */
export function buttonClass(look: Look = 'plain'): string {
  return `inline-flex items-center gap-1.5 rounded-[5px] px-2.5 py-1 whitespace-nowrap disabled:opacity-45 ${LOOKS[look]}`;
}

type Props = ButtonHTMLAttributes<HTMLButtonElement> & { look?: Look; children: ReactNode };

export function Button({ look = 'plain', className = '', type = 'button', ...rest }: Props) {
  return <button type={type} className={`${buttonClass(look)} ${className}`} {...rest} />;
}
