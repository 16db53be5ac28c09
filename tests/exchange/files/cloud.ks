text --non-interactive
url --mirrorlist="https://mirrors.larkmoor.example/?repo=fedora-43&arch=x86_64"
lang en_US.UTF-8
keyboard 'us'
timezone Etc/UTC --utc
selinux --enforcing
firewall --disabled
bootloader --location=none --disabled
network --bootproto=dhcp --device=link --activate --onboot=on
services --enabled=sshd,cloud-init,cloud-init-local
rootpw --lock --iscrypted locked
reqpart --add-boot
part / --fstype btrfs --size 5000 --grow
zerombr
clearpart --all --initlabel --disklabel=gpt
shutdown
%packages --instLangs=en --excludeWeakdeps --exclude-weakdeps
kernel-core
@core
-dracut-config-rescue
%end
%certificate --filename=x.pem --dir=/etc/pki
-----BEGIN CERTIFICATE-----
MIIB
-----END CERTIFICATE-----
%end
%onerror
echo x
%end
